import type { IfStep, Step } from "./step";

/** Where a list of steps is: the macro itself (""), or a branch ("3.", "3.else."). With the place in it, a step. */
export interface Spot {
  readonly under: string;
  readonly index: number;
}

/** @throws RangeError for anything but a path as walkSteps writes them */
export function spotOf(path: string): Spot {
  const found = /^((?:\d+\.(?:else\.)?)*)(\d+)$/.exec(path);
  if (!found) throw new RangeError(`not the path of a step: ${path}`);
  return { under: found[1]!, index: Number(found[2]) - 1 };
}

/** The steps with one list of them changed. Branches that do not exist are left as they are. */
export function changeList(
  steps: readonly Step[],
  under: string,
  change: (list: readonly Step[]) => readonly Step[],
): readonly Step[] {
  if (under === "") return change(steps);
  const found = /^(\d+)\.(else\.)?(.*)$/s.exec(under);
  if (!found) throw new RangeError(`not the path of a list: ${under}`);
  const at = Number(found[1]) - 1;
  const branch = found[2] ? "else" : "then";
  return steps.map((step, i): Step => {
    if (i !== at || step.do !== "if") return step;
    return { ...step, [branch]: changeList(step[branch] ?? [], found[3]!, change) } as IfStep;
  });
}

/** The list of steps there; empty where there is none. */
export function listAt(steps: readonly Step[], under: string): readonly Step[] {
  let list: readonly Step[] = [];
  changeList(steps, under, (found) => (list = found));
  return list;
}

export function removeAt(steps: readonly Step[], path: string): readonly Step[] {
  const { under, index } = spotOf(path);
  return changeList(steps, under, (list) => list.filter((_, i) => i !== index));
}

export function replaceAt(steps: readonly Step[], path: string, step: Step): readonly Step[] {
  const { under, index } = spotOf(path);
  return changeList(steps, under, (list) => list.map((old, i) => (i === index ? step : old)));
}

/** Puts a step before the one that is there; past the end, last. */
export const insertAt = (steps: readonly Step[], { under, index }: Spot, step: Step): readonly Step[] =>
  changeList(steps, under, (list) => [...list.slice(0, index), step, ...list.slice(index)]);

/** Moves a step within its list; past the ends nothing happens. */
export function moveWithin(steps: readonly Step[], path: string, to: number): readonly Step[] {
  const { under, index } = spotOf(path);
  return changeList(steps, under, (list) => {
    const moved = list[index];
    if (!moved || to < 0 || to >= list.length) return list;
    const rest = list.filter((_, i) => i !== index);
    return [...rest.slice(0, to), moved, ...rest.slice(to)];
  });
}
