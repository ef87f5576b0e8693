import { GRAIN_MS, firstFree, without, type Span } from "./free";

/**
 * Puts work into free time. What is free is one machine that stands still in between, work may be taken up again, and
 * nothing has to wait for its turn: so earliest due first is in time whenever anything is, and where not all can be,
 * leaving out the longest each time leaves out the fewest (Moore and Hodgson 1968; with some that must be in time,
 * Sidney 1973).
 */

export interface Work {
  readonly id: number;
  /** Instant, ms; null for whenever. */
  readonly due: number | null;
  /** ms */
  readonly length: number;
  /** Is late only where it would be by itself, whatever else there is. */
  readonly pressing: boolean;
}

export interface Placed extends Span {
  readonly id: number;
}

/** Why something cannot be in time: all of this is due by then, and is more than there is room for. */
export interface Proof {
  readonly id: number;
  readonly by: number;
  readonly work: readonly number[];
  /** ms */
  readonly needs: number;
  readonly room: number;
}

export interface Fit {
  /** In order of time. */
  readonly placed: readonly Placed[];
  /** One for each that is late. */
  readonly proofs: readonly Proof[];
  /** For which there is no room at all. */
  readonly left: readonly number[];
}

type Dated = Work & { readonly due: number };

/** Free time before an instant, ms. */
export const roomBefore = (free: readonly Span[], by: number): number =>
  free.reduce((sum, { start, end }) => sum + Math.max(0, Math.min(end, by) - start), 0);

const total = (works: readonly Work[]): number => works.reduce((sum, { length }) => sum + length, 0);
const byDue = (a: Dated, b: Dated): number => a.due - b.due || Number(b.pressing) - Number(a.pressing) || a.id - b.id;
/** The longest goes first; of equals that which is due last. */
const longest = (works: readonly Dated[]): Dated | undefined =>
  works.reduce<Dated | undefined>((most, one) => (!most || one.length >= most.length ? one : most), undefined);

/** What can be in time of what is in order of its due dates; what of it must be, is. */
function chosen(free: readonly Span[], works: readonly Dated[], must: ReadonlySet<number>): Proof[] {
  const proofs: Proof[] = [];
  const kept: Dated[] = [];
  for (const work of works) {
    kept.push(work);
    const room = roomBefore(free, work.due);
    while (total(kept) > room) {
      const gone = longest(kept.filter(({ id }) => !must.has(id)));
      if (!gone) break;
      proofs.push({ id: gone.id, by: work.due, work: kept.map(({ id }) => id), needs: total(kept), room });
      kept.splice(kept.indexOf(gone), 1);
    }
  }
  return proofs;
}

/** Takes room for work: in one piece where there is one before it is due, or else in the first pieces there are. */
function take(
  free: readonly Span[],
  { length, due }: Work,
): { readonly taken: readonly Span[]; readonly free: Span[] } | null {
  const whole = firstFree(free, length, due ?? undefined) ?? (due === null ? null : firstFree(free, length));
  const isInTime = whole !== null && (due === null || whole.end <= due || roomBefore(free, due) < length);
  if (isInTime) return { taken: [whole], free: without(free, [whole]) };
  const taken: Span[] = [];
  let left = length;
  for (const { start, end } of free) {
    if (left <= 0) break;
    const piece = { start, end: Math.min(end, start + left) };
    taken.push(piece);
    left -= piece.end - piece.start;
  }
  return left > 0 ? null : { taken, free: without(free, taken) };
}

/**
 * @param free stretches in order, none touching another
 * @returns where the work goes: nothing overlaps, what can be in time is, and what is due later than something moves
 * it only where one of the two is late
 */
export function fit(free: readonly Span[], works: readonly Work[]): Fit {
  const sized = works.map((work) => ({
    ...work,
    length: Math.max(GRAIN_MS, Math.ceil(work.length / GRAIN_MS) * GRAIN_MS),
  }));
  const dated = sized.filter((work): work is Dated => work.due !== null).sort(byDue);
  const none: ReadonlySet<number> = new Set();
  const pressing = dated.filter((work) => work.pressing);
  const hopeless = chosen(free, pressing, none);
  const lost = new Set(hopeless.map(({ id }) => id));
  const must = new Set(pressing.map(({ id }) => id).filter((id) => !lost.has(id)));
  const proofs = [
    ...hopeless,
    ...chosen(
      free,
      dated.filter(({ id }) => !lost.has(id)),
      must,
    ),
  ];
  const late = new Set(proofs.map(({ id }) => id));
  const order: readonly Work[] = [
    ...dated.filter(({ id }) => !late.has(id)),
    ...dated.filter(({ id }) => late.has(id)).sort((a, b) => Number(b.pressing) - Number(a.pressing) || byDue(a, b)),
    ...sized.filter(({ due }) => due === null).sort((a, b) => Number(b.pressing) - Number(a.pressing) || a.id - b.id),
  ];
  const placed: Placed[] = [];
  const left: number[] = [];
  let rest = free;
  for (const work of order) {
    const found = take(rest, work);
    if (!found) left.push(work.id);
    else {
      rest = found.free;
      placed.push(...found.taken.map((span) => ({ id: work.id, ...span })));
    }
  }
  return { placed: placed.sort((a, b) => a.start - b.start), proofs, left };
}
