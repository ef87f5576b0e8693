import type { FolderId, MessageId } from "../id";
import type { Step } from "../macro";
import { suggestionsFrom, type Pattern } from "./conditions";

/** What recurs by hand: where mail of a pattern goes, and which macros follow one another. Offered, never made. */

/** How often mail that a condition means was put into a folder by a macro. */
export interface Habit {
  readonly narrow: string;
  readonly folder: FolderId;
  /** null where no macro of the person's did it. */
  readonly macro: number | null;
  readonly messages: number;
  /** The last message it was. */
  readonly last: MessageId;
}

/** The conditions a decision about a message counts for. */
export const patternsOf = (pattern: Pattern): string[] => suggestionsFrom(pattern).map(({ narrow }) => narrow);

export interface FoundRule {
  readonly narrow: string;
  readonly folder: FolderId;
  /** The macro that did it most often; null for none. */
  readonly macro: number | null;
  /** How many were put there, of how many that were decided. */
  readonly messages: number;
  readonly decided: number;
}

/** Fewer are no habit. */
export const LEAST_MESSAGES = 6;
const LEAST_SHARE = 0.95;
/** Of two that mean the same mail the plainer one is offered: a list, a sender, all of a domain, an alias, a subject. */
const PLAINNESS = ["list=", "from=", "from~", "via=", "subject~"];
const rankOf = (narrow: string): number => PLAINNESS.findIndex((start) => narrow.startsWith(start));

/** @param known conditions that have a rule, or were declined */
export function foundRules(habits: readonly Habit[], known: ReadonlySet<string>): FoundRule[] {
  const byNarrow = new Map<string, Habit[]>();
  for (const habit of habits) byNarrow.set(habit.narrow, [...(byNarrow.get(habit.narrow) ?? []), habit]);
  const found: (FoundRule & { readonly last: MessageId })[] = [];
  for (const [narrow, some] of byNarrow) {
    const decided = some.reduce((sum, { messages }) => sum + messages, 0);
    const folders = new Map<FolderId, number>();
    for (const { folder, messages } of some) folders.set(folder, (folders.get(folder) ?? 0) + messages);
    for (const [folder, messages] of folders) {
      if (messages < LEAST_MESSAGES || messages < LEAST_SHARE * decided) continue;
      const by = some.filter((habit) => habit.folder === folder).sort((a, b) => b.messages - a.messages);
      const last = by.reduce((latest, habit) => (habit.last > latest ? habit.last : latest), by[0]!.last);
      found.push({ narrow, folder, macro: by[0]!.macro, messages, decided, last });
    }
  }
  found.sort((a, b) => b.messages - a.messages || rankOf(a.narrow) - rankOf(b.narrow));
  const offered: typeof found = [];
  for (const one of found)
    // What has the same end is, as far as can be told, the same mail.
    if (!offered.some(({ folder, last }) => folder === one.folder && last === one.last)) offered.push(one);
  return offered.filter(({ narrow }) => !known.has(narrow)).map(({ last: _, ...rest }) => rest);
}

/** Macros run on the same mail one after another, and how often. */
export interface Sequence {
  readonly macros: readonly number[];
  readonly times: number;
}
export interface FoundMacro extends Sequence {
  readonly steps: readonly Step[];
  /** Keys that one would have saved. */
  readonly keys: number;
}

const LEAST_TIMES = 5;
/** A longer one is offered instead of what it holds, where that is hardly ever done without the rest. */
const MOST_ALONE = 0.25;

export const sequenceKey = (macros: readonly number[]): string => `macros ${macros.join(" ")}`;

const holds = (long: readonly number[], short: readonly number[]): boolean =>
  long.length > short.length && ` ${long.join(" ")} `.includes(` ${short.join(" ")} `);

/** @param known keys of sequences that were declined */
export function foundMacros(
  sequences: readonly Sequence[],
  macros: readonly { readonly id: number; readonly steps: readonly Step[] }[],
  known: ReadonlySet<string>,
): FoundMacro[] {
  const taken = new Set(macros.map((macro) => JSON.stringify(macro.steps)));
  const byId = new Map(macros.map((macro) => [macro.id, macro.steps]));
  return sequences
    .filter(({ times, macros: some }) => times >= LEAST_TIMES && some.every((id) => byId.has(id)))
    .filter(
      ({ macros: some, times }) =>
        !sequences.some((other) => holds(other.macros, some) && times - other.times <= MOST_ALONE * times),
    )
    .map(({ macros: some, times }) => ({
      macros: some,
      times,
      steps: some.flatMap((id) => byId.get(id)!),
      keys: times * (some.length - 1),
    }))
    .filter(({ steps, macros: some }) => !known.has(sequenceKey(some)) && !taken.has(JSON.stringify(steps)))
    .sort((a, b) => b.keys - a.keys);
}

/** A run by hand, as far as sequences go. */
export interface Handled {
  readonly macro: number;
  readonly atMs: number;
  /** Which messages it was on. */
  readonly on: string;
}

/** What follows within this time belongs together. */
const TOGETHER_MS = 60_000;
const LONGEST = 4;

/** The sequences that end with a run, of those before it on the same mail, the newest last. */
export function sequencesEnding(before: readonly Handled[], now: Handled): number[][] {
  const chain = [now.macro];
  const found: number[][] = [];
  let next = now;
  for (let at = before.length - 1; at >= 0 && chain.length < LONGEST; at--) {
    const one = before[at]!;
    if (one.on !== now.on || next.atMs - one.atMs > TOGETHER_MS) break;
    chain.unshift(one.macro);
    found.push([...chain]);
    next = one;
  }
  return found;
}
