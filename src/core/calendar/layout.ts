import type { Span } from "./free";

/** Where something stands beside what is at the same time. */
export interface Lane {
  /** From 0. */
  readonly lane: number;
  /** How many there are beside one another. */
  readonly lanes: number;
}

/** What is shorter is drawn so long, and must not be drawn over. */
const LEAST_MS = 15 * 60_000;

/** Sets spans that overlap beside one another, each as far to the left as it goes; in the order they are given. */
export function lanesOf(spans: readonly Span[]): readonly Lane[] {
  const order = spans
    .map((_, i) => i)
    .sort((a, b) => spans[a]!.start - spans[b]!.start || spans[b]!.end - spans[a]!.end);
  const out: { lane: number; lanes: number }[] = spans.map(() => ({ lane: 0, lanes: 1 }));
  let group: number[] = [];
  let ends: number[] = [];
  const close = () => {
    for (const i of group) out[i]!.lanes = ends.length;
    group = [];
    ends = [];
  };
  for (const i of order) {
    const { start, end } = spans[i]!;
    if (ends.every((one) => one <= start)) close();
    const free = ends.findIndex((one) => one <= start);
    const lane = free < 0 ? ends.length : free;
    ends[lane] = Math.max(end, start + LEAST_MS);
    out[i]!.lane = lane;
    group.push(i);
  }
  close();
  return out;
}
