import { ofState, readCell, sameState, sameValue, type MessageEdit, type MessageState } from "../change";
import type { FolderId } from "../id";

/** What became of a message, beside what a rule would have done with it. */
export const VERDICTS = ["agrees", "differs", "nothing"] as const;
export type Verdict = (typeof VERDICTS)[number];

/** A message as it comes into the inbox, before anybody has looked at it. */
export const arrivedIn = (inbox: FolderId): MessageState => ({
  folder: inbox,
  read: false,
  flag: null,
  pin: false,
  marker: null,
  labels: [],
  note: null,
  defer: null,
  back: null,
  await: null,
  hand: null,
  owed: false,
});

/**
 * Whether the person decided as a rule would have: every cell that it writes is so now (agrees), the message is still
 * as it came, but that it may have been read (nothing), or something else was decided (differs).
 * @param edits what the rule would have done to it as it arrived
 */
export function verdictOf(edits: readonly MessageEdit[], arrived: MessageState, now: MessageState): Verdict {
  const written = edits.filter(ofState);
  if (written.length > 0 && written.every((edit) => sameValue(readCell(now, edit), edit.after))) return "agrees";
  return sameState({ ...now, read: arrived.read }, arrived) ? "nothing" : "differs";
}

export type Shares = Readonly<Record<Verdict, number>>;
export interface Month extends Shares {
  /** "2026-11" */
  readonly month: string;
}

const NONE: Shares = { agrees: 0, differs: 0, nothing: 0 };
const sumOf = (a: Shares, b: Shares): Shares => ({
  agrees: a.agrees + b.agrees,
  differs: a.differs + b.differs,
  nothing: a.nothing + b.nothing,
});

export const allOf = (months: readonly Month[]): Shares => months.reduce(sumOf, NONE);

/** Months of two pieces as one list, the oldest first, with those between that held nothing. */
export function joinMonths(some: readonly Month[], more: readonly Month[]): Month[] {
  const by = new Map(some.map((one) => [one.month, one]));
  for (const one of more) by.set(one.month, { month: one.month, ...sumOf(by.get(one.month) ?? NONE, one) });
  const names = [...by.keys()].sort();
  const last = names.at(-1);
  const months: Month[] = [];
  for (let name = names[0]; name !== undefined && last !== undefined && name <= last; name = monthAfter(name))
    months.push(by.get(name) ?? { month: name, ...NONE });
  return months;
}

function monthAfter(name: string): string {
  const [year, month] = name.split("-").map(Number);
  return month === 12 ? `${year! + 1}-01` : `${year}-${String(month! + 1).padStart(2, "0")}`;
}
