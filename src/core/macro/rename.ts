import type { Step } from "./step";

export interface Renaming {
  readonly what: "folder" | "label" | "marker";
  readonly from: string;
  readonly to: string;
}

/**
 * The steps with a renamed folder, label or marker followed; the same array where none names it. A folder's
 * new name also holds for the folders below it.
 */
export function renameInSteps(steps: readonly Step[], { what, from, to }: Renaming): readonly Step[] {
  const rename = <T>(value: T): T => {
    if (typeof value !== "string") return value;
    if (value.toLowerCase() === from.toLowerCase()) return to as T;
    const below = what === "folder" && value.toLowerCase().startsWith(`${from.toLowerCase()}/`);
    return below ? (`${to}${value.slice(from.length)}` as T) : value;
  };
  const next = steps.map((step): Step => {
    if (what === "folder" && (step.do === "move" || step.do === "copy")) return { ...step, to: rename(step.to) };
    if (what === "label" && step.do === "label") {
      if (step.add !== undefined) return { ...step, add: rename(step.add) };
      if (step.remove !== undefined) return { ...step, remove: rename(step.remove) };
      return { ...step, toggle: rename(step.toggle) };
    }
    if (what === "marker" && step.do === "marker" && step.set !== undefined) return { ...step, set: rename(step.set) };
    return step;
  });
  return JSON.stringify(next) === JSON.stringify(steps) ? steps : next;
}
