import type { z } from "zod";
import type { SieveAnswer, sieveRequest, SieveTaken } from "@/core/api";
import { namesIn, STEP_KINDS, stepsText, type NamedMacro } from "@/core/macro";
import { PACK_KIND, PACK_VERSION, type Pack, type Taking } from "@/core/pack";
import { labelNamed, type Directory } from "@/core/place";
import { handOut, takeIn, type InRule } from "@/core/rule/sieve";
import { inTurn, readDirectory, Refusal } from "../run";
import type { Context } from "./context";
import { readList, writeList } from "./lists";
import { readMacroShapes } from "./macros";
import { lookAtPack, writePack } from "./packs";
import { listRules } from "./rules";

/** Rules as Sieve scripts, and scripts as rules. */

/** A script with more mistakes is none. */
const MOST_SAID = 10;

export async function exportSieve(context: Context): Promise<SieveAnswer> {
  const { db, person, zone } = context;
  const directory = await readDirectory(db.sql, person);
  const macros = await readMacroShapes(db.sql, person, null);
  const rules = await listRules(context);
  const out = [];
  for (const { list, macro, ...rule } of rules)
    out.push({
      ...rule,
      list: list === null ? null : { name: list, addresses: (await readList(context, list)).addresses },
      macro: macros.find(({ id }) => id === macro) ?? null,
    });
  const { script, notes } = handOut(out, { directory, now: new Date(), zone }, macros);
  return { script, notes: notes.map(({ rule, left, near }) => ({ rule, left, near: [...near] })) };
}

/** A name that no other of these has. */
function nameApart(name: string, taken: ReadonlySet<string>): string {
  for (let n = 1; ; n++) {
    const next = n === 1 ? name : `${name.slice(0, 74)} ${n}`;
    if (!taken.has(next.toLowerCase())) return next;
  }
}

/** Rules with the macros they do, as a pack. Rules with the same steps under the same name share their macro. */
function packOf(rules: readonly InRule[], { labels }: Directory): Pack {
  const macros: (NamedMacro & { readonly from: string; readonly colour: Pack["macros"][number]["colour"] })[] = [];
  const packed = rules.map(({ name, steps, narrow, list, stop, remark }) => {
    const from = JSON.stringify([name, steps]);
    let macro = macros.find((one) => one.from === from);
    if (!macro) {
      const taken = new Set(macros.map((one) => one.name.toLowerCase()));
      const colour = STEP_KINDS[steps[0]!.do].colour;
      macro = { name: nameApart(name, taken), steps, settings: {}, colour, from };
      macros.push(macro);
    }
    const plain = { time: "arrival", moreThan: null, outside: false, holdMinutes: null, look: null } as const;
    return { ...plain, narrow, stop, remark, list: list?.name ?? null, macro: macro.name };
  });
  const named = [...macros, ...packed.map(({ narrow }) => ({ steps: [], settings: { for: narrow } }))].map(namesIn);
  const every = (what: "folder" | "label") => [...new Set(named.flatMap((names) => [...names[what]]))];
  const isHere = (name: string) => labelNamed({ folders: [], labels, markers: [] }, name) !== undefined;
  return {
    kind: PACK_KIND,
    version: PACK_VERSION,
    name: "Sieve",
    macros: macros.map(({ name, colour, steps, settings }) => ({ name, colour, steps, settings })),
    decks: [],
    folders: every("folder"),
    labels: every("label").flatMap((name) => (isHere(name) ? [] : [{ name, colour: "slate" as const }])),
    markers: [],
    templates: [],
    rules: packed,
  };
}

/** Takes a script in as rules, switched off, with the folders and labels it names; or says what that would come to. */
export async function importSieve(
  context: Context,
  { script, dry }: z.infer<typeof sieveRequest>,
): Promise<SieveTaken> {
  const { db, person, zone } = context;
  const directory = await readDirectory(db.sql, person);
  const taken = takeIn(script, directory, zone);
  if (!taken.ok) {
    const said = taken.problems
      .slice(0, MOST_SAID)
      .map(({ line, column, why }) => `Line ${line}, column ${column}: ${why}`);
    throw new Refusal(422, "Not a script that can be read", `${said.join(" ")} Nothing was taken in.`);
  }
  const pack = packOf(taken.rules, directory);
  const answer = (taking: Taking): SieveTaken => ({
    rules: taken.rules.map(({ name, narrow, steps, stop, list, near }) => ({
      name,
      narrow,
      steps: stepsText(steps),
      stop,
      senders: list?.addresses.length ?? 0,
      near: [...near],
    })),
    left: taken.left.map((one) => ({ ...one })),
    folders: [...taking.folders],
    labels: taking.labels.map(({ name }) => name),
  });
  if (dry) return answer(await lookAtPack(context, pack));
  const taking = await inTurn(db, person, async (tx, seq) => {
    for (const { list } of taken.rules)
      if (list) await writeList(tx, context, seq, list.name, { add: [...list.addresses], remove: [] });
    return writePack(tx, person, pack);
  });
  return answer(taking);
}
