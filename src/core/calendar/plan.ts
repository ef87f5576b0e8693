import type { Week } from "../when";
import { fit, type Proof, type Work } from "./fit";
import { freeIn, without, type Span } from "./free";
import type { Range } from "./expand";

/** What of a task decides where it goes. */
export interface OpenTask {
  readonly id: number;
  /** ISO 8601 */
  readonly due: string | null;
  /** Minutes. */
  readonly estimate: number | null;
  readonly pressing: boolean;
  readonly waiting: boolean;
  readonly done: boolean;
}

/** A time that something takes. */
export interface Taken extends Span {
  readonly event: number;
  /** The task it is time for. */
  readonly task: number | null;
  readonly busy: boolean;
}

/** Where a task's time goes. */
export interface Move {
  readonly task: number;
  /** What is given up: its events with their times. */
  readonly before: readonly Taken[];
  readonly after: readonly Span[];
}

export interface Plan {
  readonly moves: readonly Move[];
  readonly proofs: readonly Proof[];
  /** Tasks for which there is no room in the range. */
  readonly left: readonly number[];
}

/** What a task takes for which nothing was said, minutes. */
export const USUAL_ESTIMATE = 30;
const MINUTE_MS = 60_000;

const isOpen = ({ done, waiting }: OpenTask): boolean => !done && !waiting;
const lengthOf = (spans: readonly Span[]): number => spans.reduce((sum, { start, end }) => sum + end - start, 0);
const meets = (a: Span, b: Span): boolean => a.start < b.end && b.start < a.end;

/**
 * All open tasks in free time. Time that a task has already stays where it is as long as nothing else is there and it
 * is over before the task is due: a second proposal has nothing to propose.
 * @param taken what is planned in the range @param range from now on, instants in ms
 */
export function planTasks(
  tasks: readonly OpenTask[],
  taken: readonly Taken[],
  week: Week,
  range: Range,
  zone: string,
): Plan {
  const free = (fixed: readonly Span[]) => freeIn(week, range, zone, fixed);
  // What turns out late with part of its time where it was may go all of it where it fits better.
  for (let released: ReadonlySet<number> = new Set(); ;) {
    const { kept, plan } = attempt(tasks, taken, range, free, released);
    const late = plan.proofs.map(({ id }) => id).filter((id) => kept.has(id));
    if (late.length === 0) return plan;
    released = new Set([...released, ...late]);
  }
}

/** @param released tasks whose time may go elsewhere whatever it is */
function attempt(
  tasks: readonly OpenTask[],
  taken: readonly Taken[],
  range: Range,
  free: (fixed: readonly Span[]) => readonly Span[],
  released: ReadonlySet<number>,
): { readonly kept: ReadonlyMap<number, readonly Span[]>; readonly plan: Plan } {
  const open = new Map(tasks.filter(isOpen).map((task) => [task.id, task]));
  const known = new Set(tasks.map(({ id }) => id));
  const ahead = taken.filter(({ end }) => end > range.from);
  // Time for a task that nobody knows any more is time that is taken.
  const isOfTask = ({ task }: Taken) => task !== null && known.has(task);
  const fixed: Span[] = ahead.filter((one) => one.busy && !isOfTask(one));
  const kept = new Map<number, readonly Span[]>();
  const given = new Map<number, readonly Taken[]>();
  for (const [id, own] of timesByTask(ahead.filter(isOfTask))) {
    const task = released.has(id) ? undefined : open.get(id);
    const left = own.map(({ start, end }) => ({ start: Math.max(start, range.from), end }));
    const isInTime = task && (task.due === null || own.every(({ end }) => end <= Date.parse(task.due!)));
    // Where one of its pieces cannot stay, all of them may go where they fit better.
    if (isInTime && !left.some((one, i) => [...fixed, ...left.slice(0, i)].some((other) => meets(other, one)))) {
      kept.set(id, left);
      fixed.push(...left);
    } else given.set(id, own);
  }
  const works = [...open.values()].flatMap((task): Work[] => {
    const length = (task.estimate ?? USUAL_ESTIMATE) * MINUTE_MS - lengthOf(kept.get(task.id) ?? []);
    const due = task.due === null ? null : Date.parse(task.due);
    return length > 0 ? [{ id: task.id, due, length, pressing: task.pressing }] : [];
  });
  const { placed, proofs, left } = fit(free(fixed), works);
  const after = new Map<number, Span[]>();
  for (const { id, start, end } of placed) after.set(id, [...(after.get(id) ?? []), { start, end }]);
  const moves = [...new Set([...given.keys(), ...after.keys()])]
    .map((task) => ({ task, before: given.get(task) ?? [], after: after.get(task) ?? [] }))
    .filter(({ before, after: to }) => isMove(before, to));
  return { kept, plan: { moves, proofs, left } };
}

function timesByTask(taken: readonly Taken[]): ReadonlyMap<number, readonly Taken[]> {
  const by = new Map<number, Taken[]>();
  for (const one of [...taken].sort((a, b) => a.start - b.start || a.event - b.event))
    by.set(one.task!, [...(by.get(one.task!) ?? []), one]);
  return by;
}

const isMove = (before: readonly Span[], after: readonly Span[]): boolean =>
  without(before, after).length > 0 || without(after, before).length > 0 || before.length !== after.length;
