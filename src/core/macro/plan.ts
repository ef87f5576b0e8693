import {
  EMPTY,
  changeOfMessages,
  editsBetween,
  sharing,
  type CellEdit,
  type Change,
  type MessageState,
} from "../change";
import type { MessageId } from "../id";
import { Resolver, type Answers, type Draft, type PlanContext, type Problem, type Question } from "./resolve";
import type { Step } from "./step";

export interface PlanMessage {
  readonly id: MessageId;
  readonly state: MessageState;
}

export interface PlanSkip {
  readonly message: MessageId;
  /** The last step that looked at the message, counted from one. */
  readonly step: number;
  readonly reason: "already-so";
}

/** A copy that is to be made; whoever applies the plan gives it an id. */
export interface PlannedCopy {
  readonly source: MessageId;
  /** How the copy is to be: the message as the steps so far have left it, in the copy's folder. */
  readonly state: MessageState;
}

export interface Plan {
  readonly change: Change;
  readonly copies: readonly PlannedCopy[];
  /** Questions without an answer; while there are any, the plan changes nothing. */
  readonly asks: readonly Question[];
  readonly skipped: readonly PlanSkip[];
}

export type Planned =
  { readonly ok: true; readonly plan: Plan } | { readonly ok: false; readonly problems: readonly Problem[] };

/** What the steps do to a message in some state. */
interface Outcome {
  readonly edits: readonly CellEdit[];
  readonly copies: readonly MessageState[];
  readonly step: number;
}

/** What stands in the way of running the steps, whatever the messages; with the questions they will ask. */
export function checkSteps(
  steps: readonly Step[],
  context: PlanContext,
): { problems: Problem[]; questions: Question[] } {
  const resolver = new Resolver(context, {});
  steps.forEach((step, i) => resolver.effect(step, i));
  const empty: Problem[] = steps.length === 0 ? [{ code: "no-steps", step: 0 }] : [];
  return { problems: [...empty, ...resolver.problems], questions: resolver.questions };
}

/**
 * What a macro would do to the messages, without doing it. The same function makes the instant picture in the
 * browser, the truth on the server, the dry run and the tests.
 *
 * @param messages each once, with what is stored for it now
 */
export function plan(
  steps: readonly Step[],
  messages: Iterable<PlanMessage>,
  answers: Answers,
  context: PlanContext,
): Planned {
  const resolver = new Resolver(context, answers);
  const effects = steps.map((step, i) => resolver.effect(step, i));
  if (steps.length === 0) return { ok: false, problems: [{ code: "no-steps", step: 0 }] };
  if (resolver.problems.length > 0) return { ok: false, problems: resolver.problems };
  if (resolver.questions.length > 0)
    return { ok: true, plan: { change: EMPTY, copies: [], asks: resolver.questions, skipped: [] } };

  const share = sharing();
  const run = (state: MessageState): Outcome => {
    const draft: Draft = { ...state };
    const copies: MessageState[] = [];
    let at = 0;
    while (at < effects.length && effects[at]!(draft, (folder) => copies.push({ ...draft, folder })) === "go-on") at++;
    return { edits: share(editsBetween(state, draft)), copies, step: Math.min(at + 1, effects.length) };
  };
  // Messages read together share their state objects, so most of ten thousand are planned already.
  const known = new Map<MessageState, Outcome>();
  const byMessage = new Map<MessageId, readonly CellEdit[]>();
  const copies: PlannedCopy[] = [];
  const skipped: PlanSkip[] = [];
  for (const { id, state } of messages) {
    let outcome = known.get(state);
    if (!outcome) known.set(state, (outcome = run(state)));
    if (outcome.edits.length > 0) byMessage.set(id, outcome.edits);
    else if (outcome.copies.length === 0) skipped.push({ message: id, step: outcome.step, reason: "already-so" });
    for (const copy of outcome.copies) copies.push({ source: id, state: copy });
  }
  return { ok: true, plan: { change: changeOfMessages(byMessage), copies, asks: [], skipped } };
}
