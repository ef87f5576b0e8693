"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import type { LeaveAnswer } from "@/core/api";
import { bindingsOf, type Command } from "@/core/keys";
import { useFrame } from "../input/frame";
import { useKeyboard } from "../input/keyboard";
import { useFocusIn } from "../parts/focus-in";
import { useNarrowScreen } from "../parts/narrow-screen";
import { HeaderNotice } from "../parts/notice";
import { countText, plural } from "../parts/words";
import { goToPlace } from "../state/browse";
import { idsMatching } from "../state/decide";
import { redoLast, undoLast } from "../state/edits";
import { senders as sendersRead } from "../state/reads";
import { runMacro } from "../state/run";
import { notify, set, useView, view } from "../state/store";
import { blockSenders, leaveSenders, standAside } from "./acts";
import { Offers } from "./offers";
import { inOrder, ORDERS, type SenderOrder } from "./order";
import { SenderRow } from "./sender-row";
import { useSenderKeys } from "./sender-keys";

const PAGE = 12;
const nothing = () => undefined;

const HEADS: readonly (readonly [name: string, order: SenderOrder | null, title: string])[] = [
  ["sender or list", "name", "By name"],
  ["12 months", null, "Messages by month"],
  ["never read", "unreadMonthly", "Messages a month that nobody read, of the last three months"],
  ["messages", "total", "Messages in twelve months"],
  ["in the inbox", "inbox", "Messages in the inbox"],
  ["read", null, "The share that was read"],
  ["answered", null, "How many were answered"],
  ["trashed unread", "trashedUnread", "How many went to Trash without being read"],
  ["last read", null, "When the last one that was read was written"],
  ["space", "bytes", "Space they take"],
];

/** Columns that a phone has room for. */
const SMALL: readonly number[] = [0, 2, 4];
const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px] max-md:py-1.5";

/** Who fills the mailbox. The keys of the deck act on what those that are ticked, or the focused one, have in the inbox. */
export function SendersScreen() {
  const router = useRouter();
  const { data, error, refetch } = useQuery(sendersRead);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const dialog = useView((v) => v.dialog);
  const deck = useView((v) => v.decks.find(({ number }) => number === v.deck) ?? null);
  const [order, setOrder] = useState<SenderOrder>("unreadMonthly");
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [pages, setPages] = useState<LeaveAnswer["pages"]>([]);
  const rows = useMemo(() => inOrder(data ?? [], order), [data, order]);
  const phone = useNarrowScreen();
  const macros = useView((v) => v.macros);
  /** What the thumb does to one message, it can do here to all of a sender's. */
  const thumbed = macros.filter(({ id }) => Object.values(deck?.swipes ?? {}).includes(id));
  const { place, move, choose } = useFocusIn(rows.map(({ source }) => source));
  const focused = rows[place];
  const chosen = ticked.size > 0 ? rows.filter(({ source }) => ticked.has(source)) : focused ? [focused] : [];
  const messages = chosen.reduce((sum, { inbox }) => sum + inbox, 0);

  const tick = (source: string) => {
    const next = new Set(ticked);
    if (!next.delete(source)) next.add(source);
    setTicked(next);
  };
  const open = (narrow: string) => {
    goToPlace(narrow);
    router.push("/");
  };
  const run = (id: number) => {
    const macro = view().macros.find((one) => one.id === id);
    if (!macro || chosen.length === 0) return;
    const ids = idsMatching(`folder=Inbox & (${chosen.map(({ narrow }) => narrow).join(" | ")})`);
    if (ids.length === 0)
      return notify(`Nothing of ${chosen.length === 1 ? chosen[0]!.name : "them"} is in the inbox.`, "trouble");
    runMacro({ ...macro, settings: { ...macro.settings, focus: "stay" } }, { ids });
    setTicked(new Set());
  };
  const settled = (done: boolean) => done && setTicked(new Set());
  const leave = async () => {
    const answer = await leaveSenders(chosen);
    settled(answer !== null);
    if (answer) setPages(answer.pages);
  };
  const aside = async (on = chosen.some((one) => one.aside !== "aside")) => settled(await standAside(chosen, on));
  const block = async () => settled(await blockSenders(chosen));
  useSenderKeys(dialog === null, { leave: () => void leave(), aside: () => void aside(), block: () => void block() });
  const perform = (command: Command) => {
    if (command.kind === "macro") return run(command.macro);
    if (command.kind !== "frame") return;
    const acts: Partial<Record<typeof command.action, () => void>> = {
      next: () => move(1),
      previous: () => move(-1),
      pageDown: () => move(PAGE),
      pageUp: () => move(-PAGE),
      first: () => move(-Infinity),
      last: () => move(Infinity),
      tick: () => focused && (tick(focused.source), move(1)),
      tickAll: () => setTicked(new Set(rows.map(({ source }) => source))),
      escape: () => setTicked(new Set()),
      open: () => focused && open(focused.narrow),
      undo: () => void undoLast(),
      redo: () => void redoLast(),
      goTo: () => set({ dialog: { kind: "go" } }),
      keys: () => set({ dialog: { kind: "keys" } }),
    };
    acts[command.action]?.();
  };
  const frame = useFrame();
  const bindings = useMemo(() => bindingsOf(frame, deck), [frame, deck]);
  useKeyboard({ bindings, onCommand: perform, onPeek: nothing, onWaiting: nothing, enabled: dialog === null });

  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">Senders and lists</h1>
        {(rows.length === 0
          ? []
          : ([
              ["Leave", "Del", leave, "They are asked to send nothing more"],
              [
                chosen.some((one) => one.aside !== "aside") ? "Aside" : "Aside no more",
                "Backspace",
                aside,
                "From now on it comes in aside, with what is in the inbox",
              ],
              ["Block", "Shift+Del", block, "What they send comes in as junk"],
            ] as const)
        ).map(([name, key, act, title]) => (
          <button
            key={key}
            type="button"
            title={title}
            disabled={chosen.length === 0}
            onClick={() => void act()}
            className={BUTTON}
          >
            {name} {ticked.size > 0 ? countText(ticked.size) : ""} <kbd className="max-md:hidden">{key}</kbd>
          </button>
        ))}
        <HeaderNotice />
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}{" "}
          <button type="button" onClick={() => void refetch()} className={BUTTON}>
            Read again
          </button>
        </p>
      )}
      {pages.length > 0 && (
        <section aria-label="Left by their pages only" className="bg-amber-soft px-3.5 py-2 text-[13px]">
          These can be left by hand only, on a page of theirs:
          {pages.map(({ source, page }) => (
            <a key={source} href={page} target="_blank" rel="noopener noreferrer" className="ml-2 underline">
              {source.slice(source.indexOf(" ") + 1)}
            </a>
          ))}
        </section>
      )}
      <Offers
        rows={rows}
        onTick={(sources) => setTicked(new Set(sources))}
        onDecline={(offered) => void standAside(offered, false)}
      />
      <div className="min-h-0 flex-1 overflow-auto">
        {!data && !error && (
          <p role="status" className="p-3.5">
            Looking who writes…
          </p>
        )}
        {data?.length === 0 && (
          <p className="p-3.5 text-ink-2">Nobody has written three messages in the last twelve months.</p>
        )}
        {rows.length > 0 && (
          <table className="w-full text-[13px] md:min-w-[980px]" aria-label="Senders and lists">
            <thead className="sticky top-0 z-10 bg-well text-xs text-ink-2">
              <tr>
                <td className="w-8" />
                {HEADS.map(([name, by, title], i) => (
                  <th
                    key={name}
                    title={title}
                    aria-sort={by === order ? (by === "name" ? "ascending" : "descending") : undefined}
                    className={`px-2 py-1.5 font-semibold whitespace-nowrap ${SMALL.includes(i) ? "" : "max-md:hidden"} ${i < 2 ? "text-left" : "text-right"} ${i === 0 ? "w-full" : ""}`}
                  >
                    {by ? (
                      <button
                        type="button"
                        onClick={() => (setOrder(by), choose(null))}
                        title={`Order by ${ORDERS[by]}`}
                        className={by === order ? "font-bold text-ink underline" : "hover:underline"}
                      >
                        {name}
                      </button>
                    ) : (
                      name
                    )}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((sender, i) => (
                <SenderRow
                  key={sender.source}
                  sender={sender}
                  focused={i === place}
                  ticked={ticked.has(sender.source)}
                  zone={zone}
                  onFocus={() => choose(sender.source)}
                  onTick={() => tick(sender.source)}
                  onOpen={() => open(sender.narrow)}
                />
              ))}
            </tbody>
          </table>
        )}
      </div>
      {phone && (
        <p className="flex gap-1.5 overflow-x-auto border-t border-rule px-2 py-1.5">
          {thumbed.map(({ id, name }) => (
            <button
              key={id}
              type="button"
              disabled={messages === 0}
              onClick={() => run(id)}
              className={`${BUTTON} flex-1 whitespace-nowrap`}
            >
              {name}
            </button>
          ))}
        </p>
      )}
      <p className="border-t border-rule px-3.5 py-1.5 text-xs text-ink-2">
        <span className="text-ink" data-testid="acts-on">
          {chosen.length === 0
            ? ""
            : `The keys of the deck act on ${plural(messages, "message")} in the inbox, of ${ticked.size > 0 ? plural(chosen.length, "sender") : focused!.name}.`}
        </span>{" "}
        <span className="max-md:hidden">
          <kbd>J</kbd> <kbd>K</kbd> move, <kbd>I</kbd> ticks, <kbd>Enter</kbd> opens all of their mail, <kbd>U</kbd>{" "}
          takes back.
        </span>{" "}
        Junk is left out.
      </p>
    </main>
  );
}
