import type { FolderId } from "../id";
import type { Directory } from "../place";
import type { Facts } from "./facts";
import type { Settings } from "./settings";
import type { Step } from "./step";
import type { Template } from "./template-shape";

/** A macro that others may run by its name. */
export interface NamedMacro {
  readonly name: string;
  readonly steps: readonly Step[];
  readonly settings: Settings;
}

/** Which folder a message probably belongs to; null where there is nothing to go by. */
export type Guess = (facts: Facts) => FolderId | null;

export interface PlanContext {
  readonly directory: Directory;
  readonly now: Date;
  /** IANA name, for times such as "tomorrow 9". */
  readonly zone: string;
  readonly macros?: readonly NamedMacro[];
  readonly templates?: readonly Template[];
  readonly guess?: Guess;
}

export const macroNamed = (macros: readonly NamedMacro[] | undefined, name: string): NamedMacro | undefined =>
  macros?.find((m) => m.name === name) ?? macros?.find((m) => m.name.toLowerCase() === name.toLowerCase());
