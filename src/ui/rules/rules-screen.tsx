"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useDeleteKey } from "../input/captured-keys";
import { useFocusIn } from "../parts/focus-in";
import { HeaderNotice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { countText } from "../parts/words";
import { goToPlace } from "../state/browse";
import { redoLast, undoLast } from "../state/edits";
import { rules } from "../state/reads";
import { useView } from "../state/store";
import { changeRule, removeRule } from "./edits";
import { Found } from "./found";
import { HoursOfMail } from "./hours";
import { NewRule } from "./new-rule";
import { RuleRow } from "./rule-row";
import { SieveMenu } from "./sieve";

const NONE: readonly never[] = [];

/** What is done with mail as it comes in: each rule with its condition, its macro, and what it came to. */
export function RulesScreen() {
  const router = useRouter();
  const { data, error, refetch } = useQuery(rules);
  const all = data ?? NONE;
  const { place, moves, choose } = useFocusIn(all.map(({ id }) => id));
  const focused = all[place];
  const dialog = useView((v) => v.dialog);
  useDeleteKey(dialog === null && focused ? () => void removeRule(focused) : null);
  useScreenKeys({
    ...moves,
    tick: () =>
      focused &&
      void changeRule(focused, { on: !focused.on }, `Switched rule ${place + 1} ${focused.on ? "off" : "on"}`),
    open: () => {
      if (!focused) return;
      goToPlace(focused.narrow);
      router.push("/");
    },
    undo: () => void undoLast(),
    redo: () => void redoLast(),
  });
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">Rules</h1>
        <span className="text-[13px] text-ink-2">{data && countText(all.length)}</span>
        <HeaderNotice />
        <SieveMenu />
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}{" "}
          <button type="button" onClick={() => void refetch()} className="underline">
            Read again
          </button>
        </p>
      )}
      <NewRule />
      <div className="min-h-0 flex-1 overflow-y-auto">
        {!data && !error && (
          <p role="status" className="px-3.5 py-3">
            Reading the rules…
          </p>
        )}
        {data?.length === 0 && (
          <p className="max-w-2xl px-3.5 py-3 text-ink-2">
            No rules yet. A rule looks at each message as it comes into the inbox and does what a macro of yours does:
            filed before you ever see it, and taken back from the ledger like anything else.
          </p>
        )}
        <ol aria-label="Rules">
          {all.map((rule, i) => (
            <RuleRow
              key={rule.id}
              rule={rule}
              place={i}
              count={all.length}
              focused={i === place}
              onFocus={() => choose(rule.id)}
            />
          ))}
        </ol>
        <Found />
        <HoursOfMail />
      </div>
      <footer className="border-t border-rule px-3.5 py-1.5 text-[13px] text-ink-2 max-md:hidden">
        <kbd>J</kbd> <kbd>K</kbd> move, <kbd>I</kbd> switches on and off, <kbd>Enter</kbd> opens the mail it means,{" "}
        <kbd>Del</kbd> deletes, <kbd>U</kbd> takes back. Rules are done in this order, each on what those before have
        made of the mail.
      </footer>
    </main>
  );
}
