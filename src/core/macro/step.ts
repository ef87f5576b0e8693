import * as z from "zod";
import { REPEAT } from "../agenda";
import { REPORTED_AS } from "../change";
import { isAsked, isGuessed, date, folder, label, marker, text } from "./value";

/**
 * Steps as a person would write them, which is also how they are stored and sent: `do` is the step's name,
 * folders are paths, labels names, markers letters, times as core/when reads them.
 */
const plain = <K extends string>(name: K) => z.strictObject({ do: z.literal(name) });

const exactlyOne =
  (...names: string[]) =>
  (step: object) =>
    names.filter((name) => (step as Record<string, unknown>)[name] !== undefined).length === 1;

const narrow = z.string().trim().min(1, "say which messages, as on the narrow line").max(2000);
/** What an ask step is called, so that later steps can use its answer. */
const answerName = z.string().trim().min(1).max(40);
/** What a list of senders is called; whatever the case, it is the same one. */
export const listName = z
  .string()
  .trim()
  .min(1)
  .max(80)
  .regex(/^[^\n]*$/, "a name is one line");
const prompt = z.string().trim().min(1).max(80).optional();
/** What every step that writes a letter may say. */
const letter = {
  template: z.string().trim().min(1).max(80).optional(),
  goes: z
    .enum(["outbox", "draft", "owed"])
    .optional()
    .describe("out by itself, opened as a draft, or put aside as owed; with a template the first, without the second"),
  send: date.optional().describe("when it is sent; without it, once it was held for a moment"),
  sent: folder.optional().describe("the folder its sent copy goes to, instead of Sent"),
  sentToo: z.literal(true).optional().describe("Sent keeps a copy beside that one"),
};
const affix = z.string().max(80).optional();

export const ASK_KINDS = ["folder", "label", "marker", "date", "text", "yes/no"] as const;

const leaves = [
  z.strictObject({ do: z.literal("move"), to: folder }),
  z.strictObject({ do: z.literal("copy"), to: folder }),
  plain("archive"),
  plain("trash"),
  plain("junk"),
  plain("not junk"),
  plain("aside"),
  plain("not aside"),
  plain("delete for good"),
  plain("read"),
  plain("unread"),
  plain("toggle read"),
  z.strictObject({ do: z.literal("flag"), start: date.optional(), due: date.optional(), note: text.optional() }),
  plain("unflag"),
  z.strictObject({ do: z.literal("pin"), until: date.optional().describe("the clock takes the pin off then") }),
  plain("unpin"),
  z
    .strictObject({ do: z.literal("label"), add: label.optional(), remove: label.optional(), toggle: label.optional() })
    .refine(exactlyOne("add", "remove", "toggle"), "a label step says one of add, remove or toggle"),
  z
    .strictObject({
      do: z.literal("marker"),
      set: marker.optional(),
      next: z.literal(true).optional(),
      clear: z.literal(true).optional(),
    })
    .refine(exactlyOne("set", "next", "clear"), "a marker step says one of set, next or clear"),
  plain("owe"),
  plain("owe no more"),
  z.strictObject({ do: z.literal("note"), text }),
  z.strictObject({ do: z.literal("defer"), until: date }),
  plain("end deferral"),
  z
    .strictObject({
      do: z.literal("make task"),
      title: text.optional(),
      due: date.optional(),
      estimate: z.number().int().min(1).max(10_000).optional().describe("minutes"),
      pressing: z.literal(true).optional(),
      waiting: z.literal(true).optional().describe("for somebody else: it is never overdue"),
      repeat: z
        .string()
        .regex(REPEAT)
        .optional()
        .describe("how often it comes again: 1 day, 2 week, 1 workday, 1 month"),
    })
    .refine(
      (step) => step.repeat === undefined || step.due !== undefined,
      "what comes again begins some day: say when it is due",
    ),
  z.strictObject({
    do: z.literal("block time"),
    at: date,
    minutes: z.number().int().min(5).max(1440),
    title: text.optional().describe("the subject, where it is left out"),
  }),
  z.strictObject({
    do: z.literal("make event"),
    at: date.optional().describe("without it, as the message says; asked where it says none or several"),
    minutes: z.number().int().min(5).max(1440).optional().describe("60, or as the message says, where left out"),
    title: text.optional().describe("the subject, where it is left out"),
  }),
  z.strictObject({
    do: z.literal("block sender"),
    domain: z.literal(true).optional().describe("everybody of the sender's domain"),
  }),
  plain("unsubscribe"),
  z.strictObject({ do: z.literal("report"), as: z.enum(REPORTED_AS).describe("what its service is told it is") }),
  plain("add contact"),
  plain("copy as text"),
  z
    .strictObject({ do: z.literal("only when"), narrow: narrow.optional(), answer: answerName.optional() })
    .refine(exactlyOne("narrow", "answer"), "a condition is a narrowing or the name of a yes/no answer"),
  z.strictObject({
    do: z.literal("ask"),
    name: answerName,
    kind: z.enum(ASK_KINDS),
    prompt,
    each: z.literal(true).optional().describe("asked for every message, not once a run"),
  }),
  z.strictObject({ do: z.literal("run macro"), macro: z.string().trim().min(1).max(80) }),
  plain("stop"),
  z.strictObject({ do: z.literal("reply"), prefix: affix, suffix: affix, ...letter }),
  z.strictObject({ do: z.literal("reply all"), prefix: affix, suffix: affix, ...letter }),
  z.strictObject({ do: z.literal("forward"), to: text, prefix: affix, suffix: affix, ...letter }),
  z.strictObject({ do: z.literal("new message"), to: text, ...letter }),
  z.strictObject({ do: z.literal("await an answer"), for: date }),
  plain("await no more"),
  z.strictObject({
    do: z.literal("add sender to rule"),
    rule: listName.describe("the list of senders that one or more rules are for"),
  }),
] as const;

type Leaf = z.infer<(typeof leaves)[number]>;

/** The steps of one branch are done where the condition holds, those of the other where it does not. */
export interface IfStep {
  readonly do: "if";
  readonly narrow?: string | undefined;
  readonly answer?: string | undefined;
  readonly then: readonly Step[];
  readonly else?: readonly Step[] | undefined;
}

export type Step = Readonly<Leaf> | IfStep;
export type StepKind = Step["do"];

export type LetterStep = Extract<Step, { do: "reply" | "reply all" | "forward" | "new message" }>;

/** Where the step lets its letter go: one with a template goes by itself unless it says otherwise. */
export const goesOf = (step: LetterStep): NonNullable<LetterStep["goes"]> =>
  step.goes ?? (step.template === undefined ? "draft" : "outbox");

export const isLetter = (step: Step): step is LetterStep =>
  step.do === "reply" || step.do === "reply all" || step.do === "forward" || step.do === "new message";

/** Whether the letter is for the person to finish: nobody may be there to do so. */
export const needsWriter = (step: Step): boolean => isLetter(step) && goesOf(step) === "draft";

export const MOST_STEPS = 50;
/** Conditions inside conditions, at the most. */
export const DEEPEST = 5;

const branch = () => z.array(stepSchema).max(MOST_STEPS, `a branch holds at most ${MOST_STEPS} steps`);

const ifStep = z
  .strictObject({
    do: z.literal("if"),
    narrow: narrow.optional(),
    answer: answerName.optional(),
    get then() {
      return branch();
    },
    get else() {
      return branch().optional();
    },
  })
  .refine(exactlyOne("narrow", "answer"), "a condition is a narrowing or the name of a yes/no answer");

// A schema that holds itself has no type that could be written out: what it reads is Step by what it is made of.
export const stepSchema: z.ZodType<Step> = (
  z.discriminatedUnion("do", [...leaves, ifStep as never]) as unknown as z.ZodType<Step>
).meta({ id: "Step", description: "a step of a macro" });

const depthOf = (steps: readonly Step[]): number =>
  Math.max(
    0,
    ...steps.map((step) => (step.do === "if" ? 1 + Math.max(depthOf(step.then), depthOf(step.else ?? [])) : 0)),
  );

// The schema says "unknown" of what goes in, where callers give steps.
export const stepsSchema: z.ZodType<readonly Step[], readonly Step[]> = z
  .array(stepSchema)
  .max(MOST_STEPS, `a macro holds at most ${MOST_STEPS} steps`)
  .refine((steps) => depthOf(steps) <= DEEPEST, `conditions may stand ${DEEPEST} deep`) as never;

/** Real documents are not nested deeper than this; reading one that is would use up the stack. */
const DEEPEST_JSON = 60;

/** Whether JSON is nested too deep to be read: told from its text, before anything is made of it. One pass. */
export function isTooDeep(json: string): boolean {
  let depth = 0;
  let inText = false;
  for (let i = 0; i < json.length; i++) {
    const char = json.charCodeAt(i);
    if (inText) {
      if (char === 0x5c) i++;
      else if (char === 0x22) inText = false;
    } else if (char === 0x22) inText = true;
    else if (char === 0x5b || char === 0x7b) {
      if (++depth > DEEPEST_JSON) return true;
    } else if (char === 0x5d || char === 0x7d) depth--;
  }
  return false;
}

/** Every step with its branches' steps, each with its place as people write it: "3", "3.1", "3.else.2". */
export function* walkSteps(steps: readonly Step[], under = ""): Generator<{ step: Step; path: string; top: number }> {
  for (const [i, step] of steps.entries()) {
    const path = `${under}${i + 1}`;
    const top = Number(path.split(".")[0]);
    yield { step, path, top };
    if (step.do !== "if") continue;
    yield* walkSteps(step.then, `${path}.`);
    yield* walkSteps(step.else ?? [], `${path}.else.`);
  }
}

/** The steps with each one replaced; branches are gone into first. */
export const mapSteps = (steps: readonly Step[], change: (step: Step) => Step): readonly Step[] =>
  steps.map((step) =>
    change(
      step.do === "if"
        ? { ...step, then: mapSteps(step.then, change), ...(step.else ? { else: mapSteps(step.else, change) } : {}) }
        : step,
    ),
  );

export const asksOf = (step: Step): boolean =>
  step.do === "ask" ||
  // It asks where the message does not say.
  (step.do === "make event" && step.at === undefined) ||
  Object.values(step).some((value) => isAsked(value) || (isGuessed(value) && isAsked(value.otherwise)));
