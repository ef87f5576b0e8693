/** What is known of a message for weighing it. Times in milliseconds since 1970, NaN for none. */
export interface Weighable {
  readonly flagged: boolean;
  readonly dueMs: number;
  /** The place of its marker in the order of markers, from 0; -1 for none. */
  readonly marker: number;
  readonly contact: boolean;
  readonly owed: boolean;
  /** Whether the person has answered its sender before. */
  readonly answered: boolean;
  readonly dateMs: number;
}

/** How much a message weighs, and by what, the heaviest first. */
export interface Weighed {
  readonly weight: number;
  readonly reasons: readonly string[];
}

const DAY_MS = 86_400_000;
/** Each sign by itself outweighs all below it together, so that the order can be told in words. */
const OVERDUE = 512;
const DUE_SOON = 256;
const FLAGGED = 128;
/** Of the last marker; each one before it weighs a step more. */
const MARKED = 16;
const MARKER_STEP = 8;
const CONTACT = 4;
const OWED = 2;
const ANSWERED = 1;
const SOON_MS = 3 * DAY_MS;
/** Markers are at most so many. */
const MOST_MARKERS = 8;

/** Weighs a message: due dates first, then flags, markers in their order, contacts, what is owed, who was answered. */
export function importanceOf(message: Weighable, now: number): Weighed {
  const { flagged, dueMs, marker, contact, owed, answered, dateMs } = message;
  const signs: [number, string][] = [];
  const days = (ms: number) => Math.max(1, Math.round(Math.abs(ms) / DAY_MS));
  const dated = flagged && !Number.isNaN(dueMs);
  if (dated && dueMs < now) signs.push([OVERDUE, `due ${days(now - dueMs)} d ago`]);
  else if (dated && dueMs < now + SOON_MS) signs.push([DUE_SOON, `due in ${days(dueMs - now)} d`]);
  if (flagged) signs.push([FLAGGED, "flagged"]);
  if (marker >= 0) signs.push([MARKED + MARKER_STEP * Math.max(0, MOST_MARKERS - 1 - marker), "marker"]);
  if (contact) signs.push([CONTACT, "from a contact"]);
  if (owed) signs.push([OWED, "owed"]);
  if (answered) signs.push([ANSWERED, "answered before"]);
  const age = Math.max(0, now - dateMs);
  // Age breaks ties: a year of it weighs less than the least sign.
  const weight = signs.reduce((sum, [one]) => sum + one, 0) + Math.min(0.4, age / (1000 * DAY_MS));
  const old = age >= DAY_MS ? [`${Math.floor(age / DAY_MS)} d old`] : [];
  return { weight, reasons: [...signs.map(([, text]) => text), ...old] };
}

/** The most important first; of equal ones the older. */
export function byImportance<T>(all: readonly T[], weighableOf: (one: T) => Weighable, now: number): T[] {
  const weighed = all.map((one) => {
    const message = weighableOf(one);
    return { one, weight: importanceOf(message, now).weight, dateMs: message.dateMs };
  });
  return weighed.sort((a, b) => b.weight - a.weight || a.dateMs - b.dateMs).map(({ one }) => one);
}
