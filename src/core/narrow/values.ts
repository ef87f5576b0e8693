import { addDays, addMonths, instantOf, readWhen, wallIn, type Wall } from "../when";

/** From (included) to (left out); null is open. */
export interface Range {
  readonly from: number | null;
  readonly to: number | null;
}

const AGE_MS: Record<string, number> = {
  h: 3_600_000,
  d: 86_400_000,
  w: 604_800_000,
  mo: 2_592_000_000,
  y: 31_536_000_000,
};
const SIZE: Record<string, number> = {
  "": 1,
  b: 1,
  k: 1024,
  kb: 1024,
  m: 1024 ** 2,
  mb: 1024 ** 2,
  g: 1024 ** 3,
  gb: 1024 ** 3,
};

/** No mail is older than this: what is asked about beyond is as good as this. */
const LONGEST_AGE_MS = 1000 * 31_536_000_000;

function amount(text: string, units: Record<string, number>): { value: number; unit: number } | null {
  const found = /^(\d{1,9}(?:\.\d{1,3})?)([a-z]*)$/i.exec(text);
  const unit = found && units[found[2]!.toLowerCase()];
  return found && unit !== undefined && unit !== null ? { value: Number(found[1]) * unit, unit } : null;
}

const parts = (value: string): [string, string | null] => {
  const at = value.indexOf("..");
  return at < 0 ? [value, null] : [value.slice(0, at), value.slice(at + 2)];
};

/** Puts one measured value and an operator into a range. `end` is where the value's own unit stops. */
function ranged(op: string, start: number, end: number): Range {
  if (op === ">") return { from: end, to: null };
  if (op === ">=") return { from: start, to: null };
  if (op === "<") return { from: null, to: start };
  if (op === "<=") return { from: null, to: end };
  return { from: start, to: end };
}

/** Bytes: "1M", "200k", "10k..1M". */
export function readSize(op: string, text: string): Range | null {
  const [low, high] = parts(text);
  const a = amount(low, SIZE);
  const b = high === null ? a : amount(high, SIZE);
  if (!a || !b) return null;
  if (high !== null) return { from: a.value, to: b.value + 1 };
  return ranged(op, a.value, a.value + 1);
}

/** How long ago, as a range of dates: "7d" back from now. Older is earlier, so the ends change places. */
export function readAge(op: string, text: string, nowMs: number): Range | null {
  const [low, high] = parts(text);
  const a = amount(low, AGE_MS);
  const b = high === null ? a : amount(high, AGE_MS);
  if (!a || !b) return null;
  const youngest = nowMs - Math.min(a.value, LONGEST_AGE_MS);
  const oldest = nowMs - Math.min(b.value, LONGEST_AGE_MS);
  if (high !== null) return { from: oldest, to: youngest + 1 };
  if (op === ">") return { from: null, to: youngest };
  if (op === ">=") return { from: null, to: youngest + 1 };
  if (op === "<") return { from: youngest + 1, to: null };
  if (op === "<=") return { from: youngest, to: null };
  return { from: youngest - Math.min(a.unit, LONGEST_AGE_MS) + 1, to: youngest + 1 };
}

const midnight = (zone: string, wall: Wall): number => instantOf(zone, { ...wall, hour: 0, minute: 0 }).getTime();

/** A year, month, day or a word for one, from its first instant to the first after it. */
function daySpan(text: string, now: Date, zone: string): [number, number] | null {
  const today = wallIn(zone, now);
  const days = (wall: Wall, count: number): [number, number] => [
    midnight(zone, wall),
    midnight(zone, addDays(wall, count)),
  ];
  const word = { today: 0, tomorrow: 1, yesterday: -1 }[text];
  if (word !== undefined) return days(addDays(today, word), 1);
  const found = /^(\d{4})(?:-(\d{2}))?(?:-(\d{2}))?$/.exec(text);
  if (found) {
    const wall = { ...today, year: Number(found[1]), month: Number(found[2] ?? 1), day: Number(found[3] ?? 1) };
    // The platform takes years of two digits for those of the last century; no mail is from then.
    if (wall.year < 1900 || wall.month < 1 || wall.month > 12 || wall.day < 1 || wall.day > 31) return null;
    if (found[3]) return days(wall, 1);
    return [midnight(zone, wall), midnight(zone, addMonths(wall, found[2] ? 1 : 12))];
  }
  const when = readWhen(text, now, zone);
  return when.ok ? days(wallIn(zone, when.at), 1) : null;
}

/** Days: "today", "2026-11", "2026-10-01..2026-10-31", "2026-11-10+-2d". */
export function readDays(op: string, text: string, now: Date, zone: string): Range | null {
  const around = /^(.+?)\+-(\d{1,4})d$/.exec(text);
  if (around) {
    const span = daySpan(around[1]!, now, zone);
    if (!span) return null;
    const move = (ms: number, days: number) => midnight(zone, addDays(wallIn(zone, new Date(ms)), days));
    return { from: move(span[0], -Number(around[2])), to: move(span[1], Number(around[2])) };
  }
  const [low, high] = parts(text);
  const a = daySpan(low, now, zone);
  const b = high === null ? a : daySpan(high, now, zone);
  if (!a || !b) return null;
  if (high !== null) return { from: a[0], to: b[1] };
  return ranged(op, a[0], a[1]);
}
