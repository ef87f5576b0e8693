import { useQuery } from "@tanstack/react-query";
import type { FoundShape } from "@/core/api";
import { stepsText } from "@/core/macro";
import { countText, plural } from "../parts/words";
import { write } from "../state/api";
import { perform } from "../state/edits";
import { found, reads } from "../state/reads";
import { notify, useView, view } from "../state/store";
import { inLine } from "../state/writes";
import { createMacro } from "../workshop/edit";
import { makeRule } from "./edits";
import { TrialButton } from "./trial";

type FoundRule = FoundShape["rules"][number];
type FoundMacro = FoundShape["macros"][number];

const BUTTON = "rounded-sm border border-rule bg-sheet px-2 py-0.5 text-xs disabled:opacity-40";

/** Not offered again, unless that is taken back. */
function decline(what: { readonly narrow: string } | { readonly macros: readonly number[] }): void {
  const put = (declined: boolean) => async () => {
    await inLine(() => write("POST", "/found/decline", { ...what, declined }));
    await reads.invalidateQueries({ queryKey: found.queryKey });
  };
  void perform({ name: "Not offered again", forward: put(true), backward: put(false) });
}

/** A macro that files there, where none of the person's own can be a rule. */
async function filing(folder: string): Promise<number | null> {
  const is = (steps: readonly unknown[]) => JSON.stringify(steps) === JSON.stringify([{ do: "move", to: folder }]);
  const there = view().macros.find(({ steps }) => is(steps));
  if (there) return there.id;
  return createMacro({
    name: `File to ${folder}`.slice(0, 80),
    colour: "spruce",
    steps: [{ do: "move", to: folder }],
    settings: {},
  });
}

async function accept({ narrow, folder, macro }: FoundRule): Promise<void> {
  const id = macro ?? (await filing(folder));
  if (id === null) return;
  const name = view().macros.find((one) => one.id === id)?.name ?? "a macro";
  await makeRule({ narrow, macro: id, on: true, stop: false }, `A rule: ${name}`);
  await reads.invalidateQueries({ queryKey: found.queryKey });
}

async function combine({ macros, steps }: FoundMacro): Promise<void> {
  const names = macros.map((id) => view().macros.find((one) => one.id === id)?.name ?? "?");
  const made = await createMacro({
    name: names.join(", ").slice(0, 80),
    colour: "plum",
    steps: [...steps],
    settings: {},
  });
  await reads.invalidateQueries({ queryKey: found.queryKey });
  if (made !== null) notify(`Made ${names.join(", ")}. Put it on a key in the workshop.`);
}

function Rule({ rule }: { readonly rule: FoundRule }) {
  const name = useView((v) => v.macros.find(({ id }) => id === rule.macro)?.name);
  return (
    <li
      data-found={rule.narrow}
      className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3.5 py-1.5"
    >
      <span className="min-w-0 flex-1 basis-72">
        <code className="font-mono">{rule.narrow}</code> goes to <b>{rule.folder}</b>
        <span className="text-ink-2">
          {`: ${countText(rule.messages)} of ${countText(rule.decided)} by hand${name === undefined ? "" : `, mostly by ${name}`}; ${plural(rule.messages, "key")} saved`}
        </span>
      </span>
      <button type="button" className={BUTTON} onClick={() => void accept(rule)}>
        Make it a rule
      </button>
      <TrialButton narrow={rule.narrow} {...(rule.macro === null ? {} : { macro: rule.macro })} className={BUTTON} />
      <button type="button" className={BUTTON} onClick={() => decline({ narrow: rule.narrow })}>
        Not this
      </button>
    </li>
  );
}

function Macro({ macro }: { readonly macro: FoundMacro }) {
  const macros = useView((v) => v.macros);
  const names = macro.macros.map((id) => macros.find((one) => one.id === id)?.name ?? "?");
  return (
    <li
      data-found={macro.macros.join(" ")}
      className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3.5 py-1.5"
    >
      <span className="min-w-0 flex-1 basis-72">
        <b>{names.join(", then ")}</b>
        <span className="text-ink-2">
          {` on the same mail: ${plural(macro.times, "time")}; ${plural(macro.keys, "key")} saved by one macro (${stepsText(macro.steps)})`}
        </span>
      </span>
      <button type="button" className={BUTTON} onClick={() => void combine(macro)}>
        Make it a macro
      </button>
      <button type="button" className={BUTTON} onClick={() => decline({ macros: macro.macros })}>
        Not this
      </button>
    </li>
  );
}

/** What was done by hand again and again, and might be a rule or a macro: with what speaks for it. */
export function Found() {
  const { data } = useQuery(found);
  if (!data || data.rules.length + data.macros.length === 0) return null;
  return (
    <section aria-labelledby="found-title" className="text-[13px]">
      <header className="border-b border-rule bg-well px-3.5 py-1.5">
        <h2 id="found-title" className="font-bold">
          What you do again and again
        </h2>
      </header>
      <ul aria-label="What recurs">
        {data.rules.map((rule) => (
          <Rule key={rule.narrow} rule={rule} />
        ))}
        {data.macros.map((macro) => (
          <Macro key={macro.macros.join(" ")} macro={macro} />
        ))}
      </ul>
    </section>
  );
}
