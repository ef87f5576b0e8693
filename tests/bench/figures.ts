import { performance } from "node:perf_hooks";

/** One figure: what was measured, against a floor measured in the same run. */
export interface Figure {
  readonly what: string;
  readonly ms: number;
  readonly floor: string;
  readonly floorMs: number;
  /** The largest ratio that is good enough; null where none was set. */
  readonly budget: number | null;
}

export const say = (text: string): void => void process.stderr.write(`${text}\n`);

export const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!;

/** @returns milliseconds */
export async function timed(work: () => unknown): Promise<number> {
  const start = performance.now();
  await work();
  return performance.now() - start;
}

export async function medianOf(tries: number, work: () => unknown): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < tries; i++) times.push(await timed(work));
  return median(times);
}

/** A frame of a screen that draws sixty a second. */
export const FRAME_MS = 1000 / 60;

export function tableOf(figures: readonly Figure[]): string {
  const rows = figures.map(({ what, ms, floor, floorMs, budget }) => {
    const ratio = ms / floorMs;
    const verdict = budget === null ? "" : ratio <= budget ? "within" : "over";
    const cells = [what.replaceAll("|", "\\|"), ms.toFixed(1), floor, floorMs.toFixed(1), ratio.toFixed(2)];
    return `| ${[...cells, budget?.toFixed(2) ?? "", verdict].join(" | ")} |`;
  });
  return [
    "| what | ms | floor | ms | ratio | budget | |",
    "| --- | ---: | --- | ---: | ---: | ---: | --- |",
    ...rows,
  ].join("\n");
}
