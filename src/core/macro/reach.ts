import { macroNamed, type NamedMacro } from "./context";
import { stepFacts } from "./kinds";
import { asksOf, goesOf, isLetter, needsWriter, walkSteps, type Step, type StepKind } from "./step";

/** What a macro can do, with all the macros it may run and whichever branches it takes. */
export interface Abilities {
  /** Every kind of step it may come to. */
  readonly kinds: ReadonlySet<StepKind>;
  /** Whether it may do what cannot be taken back, so that a run asks first whatever the settings say. */
  readonly confirms: boolean;
  /** Kinds that ask others for something, which is taken back only until it has gone out. */
  readonly passing: readonly StepKind[];
  /** Kinds it may come to that nothing takes back. */
  readonly lasting: readonly StepKind[];
  readonly undoable: boolean;
  /** Whether some step may ask a question. */
  readonly asks: boolean;
  /** Whether some letter is for the person to finish. */
  readonly writes: boolean;
  /** Whether some letter may go out by itself. */
  readonly sends: boolean;
  /** How many steps it comes to with those of every macro it runs in their place; counted up to MOST_EXPANDED + 1. */
  readonly expanded: number;
}

/**
 * A macro that runs macros that run macros may come to as many steps as there are products of their lengths:
 * fifty in four levels are six million. More than this many are refused before anything is planned.
 */
export const MOST_EXPANDED = 1000;

type Macros = readonly NamedMacro[] | undefined;

/** Counts a macro once, however often it is run: linear in what is written. */
class Reach {
  readonly steps: Step[] = [];
  private readonly seen = new Set<NamedMacro>();
  private readonly sizes = new Map<NamedMacro, number>();

  constructor(private readonly macros: Macros) {}

  /** All steps there are, each once. */
  walk(steps: readonly Step[]): void {
    for (const { step } of walkSteps(steps)) {
      this.steps.push(step);
      const called = step.do === "run macro" ? macroNamed(this.macros, step.macro) : undefined;
      if (!called || this.seen.has(called)) continue;
      this.seen.add(called);
      this.walk(called.steps);
    }
  }

  /** How many steps they come to. A macro that runs itself counts as none there: that is another problem. */
  size(steps: readonly Step[]): number {
    let sum = 0;
    for (const { step } of walkSteps(steps)) {
      sum++;
      const called = step.do === "run macro" ? macroNamed(this.macros, step.macro) : undefined;
      if (called) sum += this.sizeOf(called);
      if (sum > MOST_EXPANDED) return MOST_EXPANDED + 1;
    }
    return sum;
  }

  private sizeOf(macro: NamedMacro): number {
    const known = this.sizes.get(macro);
    if (known !== undefined) return known;
    this.sizes.set(macro, 0);
    const size = this.size(macro.steps);
    this.sizes.set(macro, size);
    return size;
  }
}

/** The one place that says what a macro can do: runs, checks, dry runs, pads and packs all ask here. */
export function abilitiesOf({ steps }: { readonly steps: readonly Step[] }, macros: Macros): Abilities {
  const reach = new Reach(macros);
  reach.walk(steps);
  const kinds = new Set(reach.steps.map((step) => step.do));
  const lasting = [...kinds].filter((kind) => stepFacts(kind).undo === "none");
  const passing = [...kinds].filter((kind) => stepFacts(kind).undo === "until-gone");
  return {
    kinds,
    passing,
    confirms: [...kinds].some((kind) => stepFacts(kind).confirm),
    lasting,
    undoable: lasting.length === 0,
    asks: reach.steps.some(asksOf),
    writes: reach.steps.some(needsWriter),
    sends: reach.steps.some((step) => isLetter(step) && goesOf(step) === "outbox"),
    expanded: reach.size(steps),
  };
}

/** Whether the steps delete every message that comes to them for good: what follows them does nothing. */
export function deletesAlways(steps: readonly Step[], macros: Macros, running: readonly NamedMacro[] = []): boolean {
  for (const step of steps) {
    if (step.do === "delete for good") return true;
    if (step.do === "stop" || step.do === "only when") return false;
    if (step.do === "if") {
      const both = [step.then, step.else ?? []].every((branch) => deletesAlways(branch, macros, running));
      if (both) return true;
      // A branch may end the macro before it comes to what follows.
      if ([...walkSteps([step])].some(({ step: inner }) => inner.do === "stop" || inner.do === "only when"))
        return false;
    }
    const called = step.do === "run macro" ? macroNamed(macros, step.macro) : undefined;
    if (!called || called.settings.for !== undefined || running.includes(called)) continue;
    if (deletesAlways(called.steps, macros, [...running, called])) return true;
  }
  return false;
}

/** The macros that one may run, and those that they may; each once. */
export function macrosReached({ steps }: { readonly steps: readonly Step[] }, macros: Macros): readonly NamedMacro[] {
  const found = new Set<NamedMacro>();
  const walk = (list: readonly Step[]): void => {
    for (const { step } of walkSteps(list)) {
      const called = step.do === "run macro" ? macroNamed(macros, step.macro) : undefined;
      if (!called || found.has(called)) continue;
      found.add(called);
      walk(called.steps);
    }
  };
  walk(steps);
  return [...found].map(({ name, steps: own, settings }) => ({ name, steps: own, settings }));
}
