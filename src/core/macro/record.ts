import { writesTo } from "./check";
import type { Answers } from "./problem";
import type { Step } from "./step";
import { isAnswered, isAsked } from "./value";

/** One thing done by hand while a recording ran. */
export interface Done {
  readonly id: string;
  readonly steps: readonly Step[];
  readonly answers: Answers;
}

/** A value that was chosen while recording, and stays as it was. */
export interface Choice {
  readonly path: string;
  readonly param: string;
}

export interface Recorded {
  readonly steps: readonly Step[];
  readonly choices: readonly Choice[];
}

interface Settled {
  readonly step: Step;
  /** Parameters that hold an answer now. */
  readonly chosen: readonly string[];
}

/**
 * What the steps did, with what was answered in the place of the questions. A question that a condition or a
 * branch still looks at stays.
 */
function settled({ steps, answers }: Done): Settled[] {
  const all = steps
    .filter((step) => step.do !== "stop")
    .map((step): Settled => {
      const path = steps.indexOf(step) + 1;
      const chosen: string[] = [];
      const entries = Object.entries(step).map(([param, value]) => {
        const answer = isAsked(value)
          ? answers[`${path}.${param}`]
          : isAnswered(value)
            ? answers[`ask:${value.answer}`]
            : undefined;
        if (answer === undefined) return [param, value];
        chosen.push(param);
        return [param, answer];
      });
      return { step: Object.fromEntries(entries) as Step, chosen };
    });
  const text = JSON.stringify(all);
  return all.filter(({ step }) => step.do !== "ask" || text.includes(`"answer":${JSON.stringify(step.name)}`));
}

/** Of steps that write the same cell only the last counts; of any other, one of each. */
const cellOf = (step: Step): string | null => {
  if (step.do === "not junk") return "folder";
  if (step.do === "toggle read" || (step.do === "marker" && step.next)) return null;
  return writesTo(step) ?? JSON.stringify(step);
};

/**
 * A macro from what was done by hand: undone actions are gone, of steps that replace each other the last one
 * stays, and what was chosen stays fixed.
 * @param undone ids of what was taken back
 */
export function recordSteps(actions: readonly Done[], undone: ReadonlySet<string>): Recorded {
  const kept = actions.filter((action) => !undone.has(action.id)).flatMap(settled);
  const last = new Map<string, number>();
  kept.forEach(({ step }, i) => {
    const cell = cellOf(step);
    if (cell !== null) last.set(cell, i);
  });
  const merged = kept.filter(({ step }, i) => {
    const cell = cellOf(step);
    return cell === null || last.get(cell) === i;
  });
  // Where the message went comes last, so that every other step still finds it where it was.
  const places = merged.filter(({ step }) => cellOf(step) === "folder");
  const ordered = [...merged.filter((entry) => !places.includes(entry)), ...places];
  return {
    steps: ordered.map(({ step }) => step),
    choices: ordered.flatMap(({ chosen }, i) => chosen.map((param) => ({ path: String(i + 1), param }))),
  };
}
