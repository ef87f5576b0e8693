import { addDays, instantOf, wallIn, weekdayOf } from "../when";

/** What a list of tasks goes by. */
export interface Listed {
  readonly id: number;
  readonly due: string | null;
  readonly done: boolean;
  readonly pressing: boolean;
  readonly waiting: boolean;
}

/** Where a task stands, the most pressing first. */
export const TASK_GROUPS = ["overdue", "today", "week", "later", "undated", "waiting", "done"] as const;
export type TaskGroup = (typeof TASK_GROUPS)[number];

const DAYS_A_WEEK = 7;

/** The first instants of tomorrow and of next week (from Monday), by the person's clock. */
function ends(now: Date, zone: string): { readonly day: number; readonly week: number } {
  const today = { ...wallIn(zone, now), hour: 0, minute: 0 };
  const at = (days: number) => instantOf(zone, addDays(today, days)).getTime();
  return { day: at(1), week: at(DAYS_A_WEEK - weekdayOf(today)) };
}

/** In which group a task stands. What waits for somebody is not overdue: it is not one's own turn. */
export function groupAt(now: Date, zone: string): (task: Omit<Listed, "id">) => TaskGroup {
  const { day, week } = ends(now, zone);
  return ({ due, done, waiting }) => {
    if (done) return "done";
    if (waiting) return "waiting";
    if (due === null) return "undated";
    const at = Date.parse(due);
    if (at < now.getTime()) return "overdue";
    return at < day ? "today" : at < week ? "week" : "later";
  };
}

/** Pressing ones first, then by when they are due, then as they were made. */
const byUrgency = (a: Listed, b: Listed): number =>
  Number(b.pressing) - Number(a.pressing) ||
  (a.due === null ? Infinity : Date.parse(a.due)) - (b.due === null ? Infinity : Date.parse(b.due)) ||
  a.id - b.id;

/** Tasks in their groups; groups with none are left out. */
export function grouped<T extends Listed>(
  tasks: readonly T[],
  now: Date,
  zone: string,
): readonly { readonly group: TaskGroup; readonly tasks: readonly T[] }[] {
  const groupOf = groupAt(now, zone);
  const by = new Map<TaskGroup, T[]>(TASK_GROUPS.map((group) => [group, []]));
  for (const task of tasks) by.get(groupOf(task))!.push(task);
  return TASK_GROUPS.map((group) => ({ group, tasks: by.get(group)!.sort(byUrgency) })).filter(
    (one) => one.tasks.length > 0,
  );
}

/**
 * When a task that is put into a group becomes due; null for no date. The time of day stays, where it has one and it is
 * not over yet.
 * @returns undefined where a task cannot be put there: nothing becomes overdue by hand
 */
export function dueIn(group: TaskGroup, due: string | null, now: Date, zone: string): string | null | undefined {
  if (group === "overdue") return undefined;
  if (group === "undated") return null;
  if (group === "waiting" || group === "done") return due;
  const today = wallIn(zone, now);
  const was = due === null ? null : wallIn(zone, new Date(due));
  const time = { hour: was?.hour ?? USUAL_HOUR, minute: was?.minute ?? 0 };
  const on = (days: number) => instantOf(zone, { ...addDays(today, days), ...time });
  if (group === "today") {
    const at = on(0);
    // What would be over already is due at the end of the day.
    return (at > now ? at : instantOf(zone, { ...today, hour: 23, minute: 59 })).toISOString();
  }
  const toMonday = DAYS_A_WEEK - weekdayOf(today);
  if (group === "later") return on(toMonday).toISOString();
  // Two days on, or as far as the week goes; on a Sunday the week has no other day.
  const left = Math.min(2, toMonday - 1);
  return left < 1 ? undefined : on(left).toISOString();
}

/** A day's work is begun by then. */
const USUAL_HOUR = 9;
