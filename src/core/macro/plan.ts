import {
  changeOfMessages,
  editsBetween,
  EMPTY,
  sharing,
  type MessageEdit,
  type Change,
  type MessageState,
  type Report,
  type Task,
} from "../change";
import type { MessageId } from "../id";
import { Compiler, runOps } from "./compile";
import type { PlanContext } from "./context";
import type { Draft, Facts } from "./facts";
import type { LetterPlan } from "./letter-plan";
import type { Made, Op, PlannedEvent } from "./op";
import type { Answers, Problem, Question, SkipCode } from "./problem";
import type { Settings } from "./settings";
import type { Step } from "./step";
import { abilitiesOf, MOST_EXPANDED } from "./reach";
import { Values, type Needs } from "./values";

export interface PlanMessage {
  readonly id: MessageId;
  readonly state: MessageState;
  /** May be left out when needsOf(macro) says so. */
  readonly facts?: Facts;
}

export interface PlanSkip {
  readonly message: MessageId;
  /** The last step that looked at the message, counted from one; 0 for the macro's own "which messages". */
  readonly step: number;
  readonly reason: SkipCode;
}

/** What is to be made because of a message; whoever applies the plan gives it an id. */
export type PlannedThing =
  /** How the copy is to be: the message as the steps so far have left it, in the copy's folder. */
  | { readonly kind: "copy"; readonly source: MessageId; readonly state: MessageState }
  | { readonly kind: "task"; readonly source: MessageId; readonly task: Task }
  | { readonly kind: "event"; readonly source: MessageId; readonly event: PlannedEvent }
  | { readonly kind: "contact"; readonly source: MessageId; readonly address: string; readonly name: string }
  | { readonly kind: "blocked"; readonly source: MessageId; readonly address: string }
  | { readonly kind: "listed"; readonly source: MessageId; readonly list: string; readonly address: string }
  | { readonly kind: "leaving"; readonly source: MessageId; readonly of: string; readonly account: number }
  | { readonly kind: "aside"; readonly source: MessageId; readonly of: string; readonly on: boolean }
  | { readonly kind: "report"; readonly source: MessageId; readonly as: Report["as"] }
  | { readonly kind: "letter"; readonly source: MessageId; readonly letter: LetterPlan };

export interface Plan {
  /** What is done to messages; for one deleted for good, nothing else. */
  readonly change: Change;
  readonly things: readonly PlannedThing[];
  /** Questions without an answer that messages came to; while there are any, the plan changes nothing. */
  readonly asks: readonly Question[];
  readonly skipped: readonly PlanSkip[];
  /** Messages about which only the server knows enough. */
  readonly unknown: readonly MessageId[];
  /** Messages at which the run waits until the person has sent the draft made there, and behind which step. */
  readonly pauses: readonly { readonly message: MessageId; readonly at: string }[];
  /** Messages that the person takes along as text; whoever has a clipboard puts them there. */
  readonly texts: readonly MessageId[];
  /** How many messages are deleted for good. */
  readonly gone: number;
}

export type Planned =
  { readonly ok: true; readonly plan: Plan } | { readonly ok: false; readonly problems: readonly Problem[] };

/** A macro as it is to be planned: its steps and how it is run. */
export interface Plannable {
  /** Its name, so that it does not run itself. */
  readonly name?: string | undefined;
  readonly steps: readonly Step[];
  readonly settings?: Settings | undefined;
}

interface Outcome {
  readonly edits: readonly MessageEdit[];
  readonly made: readonly Made[];
  readonly skip: Omit<PlanSkip, "message"> | null;
  readonly asks: readonly Question[];
  readonly unknown: boolean;
  /** The step behind which it waits for the person. */
  readonly pause: string | null;
}

interface Program {
  readonly values: Values;
  readonly ops: readonly Op[];
  readonly isFor: ReturnType<Compiler["condition"]> | null;
}

function compile({ name, steps, settings }: Plannable, answers: Answers, context: PlanContext): Program {
  const values = new Values(context, answers);
  const compiler = new Compiler(values);
  values.enter("0");
  if (abilitiesOf({ steps }, context.macros).expanded > MOST_EXPANDED) {
    values.problem("too-long", { most: MOST_EXPANDED });
    return { values, ops: [], isFor: null };
  }
  const isFor = settings?.for ? compiler.condition(settings.for) : null;
  const ops = compiler.within(name, () => compiler.steps(steps));
  if (steps.length === 0) values.problems.push({ code: "no-steps", step: 0, path: "0" });
  return { values, ops, isFor };
}

/** What stands in the way of running the macro, whatever the messages; with the questions it may ask. */
export function checkSteps(macro: Plannable, context: PlanContext): { problems: Problem[]; questions: Question[] } {
  const { values } = compile(macro, {}, context);
  return { problems: values.problems, questions: values.questions };
}

/** What has to be given with each message for the macro to be planned. */
export const needsOf = (macro: Plannable, context: PlanContext): Needs => compile(macro, {}, context).values.needs;

const GONE: readonly MessageEdit[] = [{ kind: "gone", before: false, after: true }];
const NOTHING = { edits: [], made: [], skip: null, asks: [], unknown: false, pause: null } as const;

/** @param share keeps one array for equal lists of edits */
function outcomeOf(
  { ops, isFor }: Program,
  message: PlanMessage,
  share: (edits: readonly MessageEdit[]) => readonly MessageEdit[],
  after: string | null,
): Outcome {
  const draft: Draft = { ...message.state };
  const made: Made[] = [];
  const asks: Question[] = [];
  const run = {
    message: message.id,
    draft,
    facts: message.facts,
    make: (thing: Made) => void made.push(thing),
    ask: (question: Question) => void asks.push(question),
    after,
  };
  const fits = isFor && after === null ? isFor(run) : true;
  if (typeof fits === "object") return { ...NOTHING, unknown: true };
  if (!fits) return { ...NOTHING, skip: { step: 0, reason: "not-for" } };
  const { flow, at } = runOps(ops, run);
  if (asks.length > 0) return { ...NOTHING, asks };
  if (typeof flow === "object" && "fail" in flow) {
    // What a step cannot do for a message leaves the whole message as it was: never half a macro.
    if (flow.fail === "skip") return { ...NOTHING, skip: { step: at + 1, reason: flow.reason } };
    return { ...NOTHING, unknown: true };
  }
  if (made.some((thing) => thing.kind === "gone"))
    return { ...NOTHING, edits: GONE, made: made.filter((thing) => thing.kind !== "gone") };
  const edits = share(editsBetween(message.state, draft));
  const pause = typeof flow === "object" ? flow.pause : null;
  if (edits.length > 0 || made.length > 0) return { ...NOTHING, edits, made, pause };
  return { ...NOTHING, skip: { step: at + 1, reason: flow === "only-when" ? "only-when" : "already-so" } };
}

const thingOf = (made: Made, source: MessageId): PlannedThing[] => {
  if (made.kind === "gone" || made.kind === "text") return [];
  if (made.kind !== "copy") return [{ ...made, source }];
  return [{ kind: "copy", source, state: { ...made.draft, folder: made.folder } }];
};

/**
 * What a macro would do to the messages, without doing it. The same function makes the instant picture in the
 * browser, the truth on the server, the dry run and the tests.
 *
 * @param messages each once, with what is stored for it now
 * @param after where the run waited for the person: only what stands behind that step is planned. The whole is what
 *   is planned up to a step, and then what is planned after it
 * @throws RangeError when the macro needs facts (see needsOf) and a message has none
 */
export function plan(
  macro: Plannable,
  messages: Iterable<PlanMessage>,
  answers: Answers,
  context: PlanContext,
  after: string | null = null,
): Planned {
  const program = compile(macro, answers, context);
  if (program.values.problems.length > 0) return { ok: false, problems: program.values.problems };
  const share = sharing();
  // Messages read together share their state objects, so most of ten thousand are planned already.
  const known = program.values.needs.each ? null : new Map<MessageState, Outcome>();
  const byMessage = new Map<MessageId, readonly MessageEdit[]>();
  const things: PlannedThing[] = [];
  const skipped: PlanSkip[] = [];
  const asks = new Map<string, Question>();
  const unknown: MessageId[] = [];
  const pauses: { message: MessageId; at: string }[] = [];
  const texts: MessageId[] = [];
  let gone = 0;
  for (const message of messages) {
    let outcome = known?.get(message.state);
    if (!outcome) {
      outcome = outcomeOf(program, message, share, after);
      known?.set(message.state, outcome);
    }
    const { id } = message;
    for (const question of outcome.asks) asks.set(question.id, question);
    if (outcome.unknown) unknown.push(id);
    if (outcome.skip) skipped.push({ message: id, ...outcome.skip });
    if (outcome.edits === GONE) gone++;
    if (outcome.edits.length > 0) byMessage.set(id, outcome.edits);
    if (outcome.pause !== null) pauses.push({ message: id, at: outcome.pause });
    if (outcome.made.some((made) => made.kind === "text")) texts.push(id);
    for (const made of outcome.made) things.push(...thingOf(made, id));
  }
  if (asks.size > 0)
    return {
      ok: true,
      plan: {
        change: EMPTY,
        things: [],
        asks: [...asks.values()],
        skipped: [],
        unknown: [],
        pauses: [],
        texts: [],
        gone: 0,
      },
    };
  const change = changeOfMessages(byMessage);
  return { ok: true, plan: { change, things, asks: [], skipped, unknown, pauses, texts, gone } };
}
