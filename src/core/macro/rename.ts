import { mapSteps, type Step } from "./step";

export interface Renaming {
  readonly what: "folder" | "label" | "marker" | "macro";
  readonly from: string;
  readonly to: string;
}

const same = (a: string, b: string): boolean => a.toLowerCase() === b.toLowerCase();

/** The parameters of steps that name such a thing. */
const NAMING: Record<Renaming["what"], readonly (readonly [step: Step["do"], param: string])[]> = {
  folder: [
    ["move", "to"],
    ["copy", "to"],
  ],
  label: [
    ["label", "add"],
    ["label", "remove"],
    ["label", "toggle"],
  ],
  marker: [["marker", "set"]],
  macro: [["run macro", "macro"]],
};

/** A name as conditions hold it: field=name or field="name". */
function renameInNarrow(narrow: string, { what, from, to }: Renaming): string {
  if (what === "macro") return narrow;
  const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;
  const plain = /^[^\s&|()"!]+$/.test(to) ? to : quoted(to);
  return narrow.replace(new RegExp(`\\b${what}=("(?:[^"]|"")*"|[^\\s&|()"]+)`, "g"), (whole: string, value: string) => {
    const name = value.startsWith('"') ? value.slice(1, -1).replaceAll('""', '"') : value;
    if (same(name, from)) return `${what}=${plain}`;
    const below = what === "folder" && name.toLowerCase().startsWith(`${from.toLowerCase()}/`);
    return below ? `${what}=${quoted(`${to}${name.slice(from.length)}`)}` : whole;
  });
}

/**
 * The steps with a renamed folder, label, marker or macro followed, in conditions too; the same array where
 * none names it. A folder's new name also holds for the folders below it.
 */
export function renameInSteps(steps: readonly Step[], renaming: Renaming): readonly Step[] {
  const { what, from, to } = renaming;
  const rename = (value: unknown): unknown => {
    if (typeof value !== "string") return value;
    if (same(value, from)) return to;
    const below = what === "folder" && value.toLowerCase().startsWith(`${from.toLowerCase()}/`);
    return below ? `${to}${value.slice(from.length)}` : value;
  };
  const next = mapSteps(steps, (step) => {
    const params = NAMING[what].filter(([kind, param]) => step.do === kind && param in step).map(([, param]) => param);
    const renamed = params.map((param) => [param, rename((step as Record<string, unknown>)[param])]);
    const narrow =
      "narrow" in step && step.narrow !== undefined ? { narrow: renameInNarrow(step.narrow, renaming) } : {};
    return { ...step, ...Object.fromEntries(renamed), ...narrow } as Step;
  });
  return JSON.stringify(next) === JSON.stringify(steps) ? steps : next;
}

/** The same for the narrowing of a macro's settings. */
export const renameInFor = (narrow: string | undefined, renaming: Renaming): string | undefined =>
  narrow === undefined ? undefined : renameInNarrow(narrow, renaming);
