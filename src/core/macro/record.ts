import { writesTo } from "./check";
import { spotOf } from "./paths";
import { isAsked } from "./value";
import { walkSteps, type Step } from "./step";
import type { Answers } from "./problem";

/** One thing done by hand while a recording ran. */
export interface Done {
  readonly id: string;
  readonly steps: readonly Step[];
  readonly answers: Answers;
}

/** A value that was chosen while recording: it stays as it was, or is asked for whenever the macro runs. */
export interface Choice {
  readonly path: string;
  readonly param: string;
  readonly fixed: string;
  readonly asked: unknown;
}

export interface Recorded {
  readonly steps: readonly Step[];
  readonly choices: readonly Choice[];
}

/** What the steps did, with what was answered in the place of the questions. */
function settled(done: Done): { step: Step; asked: Record<string, unknown> }[] {
  return [...walkSteps(done.steps)]
    .filter(({ path }) => !path.includes("."))
    .filter(({ step }) => step.do !== "ask" && step.do !== "stop")
    .map(({ step, path }) => {
      const asked: Record<string, unknown> = {};
      const entries = Object.entries(step).map(([param, value]) => {
        const answer = isAsked(value)
          ? done.answers[`${path}.${param}`]
          : typeof value === "object" && value !== null && "answer" in value
            ? done.answers[`ask:${String(value.answer)}`]
            : undefined;
        if (answer === undefined) return [param, value];
        asked[param] = isAsked(value) ? value : { ask: param === "to" ? "folder" : "text" };
        return [param, answer];
      });
      return { step: Object.fromEntries(entries) as Step, asked };
    });
}

/** Of steps that write the same cell only the last counts; of any other, one of each. */
const cellOf = (step: Step): string | null => {
  if (step.do === "not junk") return "folder";
  if (step.do === "toggle read" || (step.do === "marker" && step.next)) return null;
  return writesTo(step) ?? JSON.stringify(step);
};

/**
 * A macro from what was done by hand: undone actions are gone, of steps that replace each other the last one
 * stays, and what was chosen stays fixed, with the question it came from kept beside it.
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
    choices: ordered.flatMap(({ step, asked }, i) =>
      Object.entries(asked).map(([param, question]) => ({
        path: String(i + 1),
        param,
        fixed: String((step as Record<string, unknown>)[param]),
        asked: question,
      })),
    ),
  };
}

/** The steps with one choice asked for from now on, or fixed again. */
export function withChoice(steps: readonly Step[], choice: Choice, asked: boolean): readonly Step[] {
  const { index } = spotOf(choice.path);
  return steps.map((step, i) =>
    i === index ? ({ ...step, [choice.param]: asked ? choice.asked : choice.fixed } as Step) : step,
  );
}
