import * as z from "zod";
import { listName, stepsSchema } from "../macro";
import { LONGEST_REMARK, RULE_TIMES } from "../rule";
import { DAYS, PART_MINUTES, PARTS_A_DAY } from "../when";
import { broughtBack, count, longId, shortId, text, time } from "./parts";

/** What is done with mail that comes in, without anybody there. */

const narrow = text(2000);

const people = z.number().int().min(0).max(1000);
/** Minutes: a week at the most. */
const hold = z.number().int().min(1).max(10_080);

export const ruleShape = z
  .object({
    id: shortId,
    narrow: narrow.describe("which mail of the inbox it is for"),
    macro: shortId
      .nullable()
      .describe("what is done; null where the macro was deleted, and on sending where it does nothing by one"),
    time: z.enum(RULE_TIMES).describe("done to mail as it comes in, or to a letter as it is queued"),
    moreThan: people.nullable().describe("on sending: only letters to more people than so many"),
    outside: z.boolean().describe("on sending: only letters to somebody of no domain of one's own"),
    holdMinutes: hold.nullable().describe("on sending: how long a letter is held at least"),
    look: text(200, 1).nullable().describe("on sending: what the person is asked before it is queued"),
    on: z.boolean(),
    stop: z.boolean().describe("rules after it leave alone what it was for"),
    trouble: z
      .string()
      .nullable()
      .describe("why it could not be done last; after three times in a row it is switched off"),
    list: text(80).nullable().describe("the list of senders it is for; null for everybody who meets the condition"),
    senders: count.describe("how many are on its list"),
    remark: text(LONGEST_REMARK, 1).nullable().describe("what is written beside it"),
    touched: z.number().int().describe("messages it was for in the last seven days"),
  })
  .meta({ id: "Rule" });
export type RuleShape = z.infer<typeof ruleShape>;

const { time: ruleTime, moreThan, outside, holdMinutes, look, remark } = ruleShape.shape;
const sending = { time: ruleTime, moreThan, outside, holdMinutes, look };

export const newRule = z.strictObject({
  narrow: ruleShape.shape.narrow,
  macro: shortId.nullable(),
  on: z.boolean().default(true),
  stop: z.boolean().default(false),
  list: listName.nullable().default(null),
  time: ruleTime.default("arrival"),
  moreThan: moreThan.default(null),
  outside: outside.default(false),
  holdMinutes: holdMinutes.default(null),
  look: look.default(null),
  remark: remark.default(null),
});
export const rulePatch = z
  .strictObject({
    narrow: ruleShape.shape.narrow,
    macro: shortId.nullable(),
    on: z.boolean(),
    stop: z.boolean(),
    list: listName.nullable(),
    ...sending,
    remark,
    position: count.describe("place in the order"),
    deleted: broughtBack,
  })
  .partial();
export const exceptShape = z.strictObject({ ids: z.array(longId).min(1).max(1000) });

const minutes = z.number().int().min(0).max(1440).multipleOf(PART_MINUTES);
const stretch = z
  .strictObject({
    day: z
      .number()
      .int()
      .min(0)
      .max(DAYS - 1)
      .describe("from 0 for Monday"),
    from: minutes.describe("minutes of the day"),
    to: minutes.describe("the first minute that is out of it"),
  })
  .refine(({ from, to }) => from < to, "A stretch ends after it begins.");
export const weekShape = stretch.array().max(DAYS * (PARTS_A_DAY / 2));

/** Hours of the week in which mail is let in. */
export const hoursShape = z
  .object({
    id: shortId,
    narrow: narrow.describe("which mail waits outside of them"),
    through: narrow.nullable().describe("which of it comes in at any time; null for none"),
    week: weekShape,
    on: z.boolean(),
  })
  .meta({ id: "Hours" });
export type HoursShape = z.infer<typeof hoursShape>;

const { id: _, ...fields } = hoursShape.shape;
export const newHours = z.strictObject({
  ...fields,
  through: fields.through.default(null),
  on: fields.on.default(true),
});
export const hoursPatch = z.strictObject({ ...fields, deleted: broughtBack }).partial();
export const hoursAnswer = z.object({
  hours: hoursShape.array(),
  waiting: count.describe("messages that wait for their hours"),
  opens: z.string().nullable().describe("when the first of them come in"),
});
export type HoursAnswer = z.infer<typeof hoursAnswer>;
export const letInAnswer = z.object({ messages: count });

const place = z.strictObject({ at: time, id: longId });
const cells = z.record(z.string(), z.unknown());
const share = count.describe("messages");

export const trialRequest = z.strictObject({
  narrow,
  macro: shortId,
  list: listName.optional().describe("only mail of the senders on this list"),
  months: z.number().int().min(1).max(240).describe("how far back, from now"),
  before: place.optional().describe("go on with what came before this: what the last answer ended with"),
});

const address = text(320)
  .trim()
  .regex(/^[^\s@<>,;]+@[^\s@<>,;]+$/, "write one address, such as ines@larch.example");

/** Who is on a list that rules are for. */
export const listShape = z.object({ addresses: z.string().array() });
export const listPatch = z.strictObject({
  add: address.array().max(1000).default([]),
  remove: address.array().max(1000).default([]),
});

const foundRule = z.object({
  narrow,
  folder: z.string().describe("where it went"),
  macro: shortId.nullable().describe("the macro that did it most often; null where none can be a rule"),
  messages: count.describe("messages that went there by hand"),
  decided: count.describe("messages of it that went anywhere"),
});
const foundMacro = z.object({
  macros: shortId.array().describe("macros that were run on the same mail, one after another"),
  steps: stepsSchema.describe("what one macro in their place would do"),
  times: count,
  keys: count.describe("keys that it would have saved"),
});
/** What recurs by hand. */
export const foundShape = z.object({ rules: foundRule.array(), macros: foundMacro.array() });
export type FoundShape = z.infer<typeof foundShape>;
const declined = z.boolean().describe("false: it may be offered again");
export const declineRequest = z.union([
  z.strictObject({ narrow, declined }),
  z.strictObject({ macros: shortId.array().min(2).max(10), declined }),
]);

/** A piece of the past, newest first, and what a rule would have done with it. */
export const trialPiece = z.object({
  all: count.describe("messages of the whole time, the person's own left out"),
  looked: count.describe("messages looked at in this piece"),
  months: z
    .object({
      month: z.string().describe("2026-11, by the person's clock"),
      agrees: share,
      differs: share,
      nothing: share,
    })
    .array()
    .describe("what it would have been for, by what the person did: the same, something else, nothing"),
  differing: z
    .object({
      id: longId,
      at: z.string().describe("when it came"),
      from: z.string(),
      subject: z.string(),
      would: cells.describe("what the rule would have made of it"),
      did: cells.describe("what stands there now"),
    })
    .array()
    .describe("of those that differ, the first of the piece"),
  before: place.nullable().describe("where the next piece goes on; null at the end"),
});
export type TrialPiece = z.infer<typeof trialPiece>;

/** Room for the largest of real scripts. */
const LONGEST_SCRIPT = 500_000;
const spot = z.object({ line: z.number().int(), column: z.number().int(), why: z.string() });
const near = z.string().array().describe("where here and there are not quite the same");

/** Rules as a Sieve script (RFC 5228). */
export const sieveAnswer = z.object({
  script: z.string(),
  notes: z
    .object({
      rule: z.number().int().describe("its place, from one"),
      left: z.string().nullable().describe("why it is not in the script"),
      near,
    })
    .array(),
});
export type SieveAnswer = z.infer<typeof sieveAnswer>;
export const sieveRequest = z.strictObject({ script: text(LONGEST_SCRIPT), dry: z.boolean().optional() });
export const sieveTaken = z.object({
  rules: z
    .object({
      name: z.string().describe("what its macro is called"),
      narrow: z.string(),
      steps: z.string().describe("what it does, in words"),
      stop: z.boolean(),
      senders: count.describe("how many are on its list"),
      near,
    })
    .array()
    .describe("rules that come switched off"),
  left: spot.array().describe("what could not be taken; the remark of a rule keeps it"),
  folders: z.string().array().describe("folders that are made"),
  labels: z.string().array().describe("labels that are made"),
});
export type SieveTaken = z.infer<typeof sieveTaken>;
