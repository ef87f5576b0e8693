import * as z from "zod";

/**
 * A value of a step: written down, or to be asked for when the macro runs, or guessed, or the answer to an
 * earlier ask step, or taken from the message.
 */
const prompt = z.string().trim().min(1).max(80).optional();
const each = z.literal(true).optional().describe("asked for every message, not once a run");

const ask = <K extends string>(kind: K) => z.strictObject({ ask: z.literal(kind), prompt, each });
const answer = z.strictObject({ answer: z.string().trim().min(1).max(40) });
const guess = z.strictObject({
  guess: z.literal("folder"),
  nth: z.number().int().min(2).max(3).optional().describe("the second or third guess, however sure it is"),
  least: z.number().int().min(0).max(100).optional().describe("percent; how sure it must be, if not as set for all"),
  otherwise: z
    .union([z.string().min(1).max(200), ask("folder")])
    .optional()
    .describe("where it goes, or what is asked, when it is less sure; without one it is left alone"),
});

/** What can be taken from a message as it is. */
export const TAKEN = [
  "first name",
  "sender name",
  "address",
  "domain",
  "subject",
  "list",
  "date in text",
  "amount in text",
] as const;
export type Taken = (typeof TAKEN)[number];

const fallback = z.string().min(1).max(200).optional().describe("where the message holds none");
const taken = z.strictObject({ take: z.enum(TAKEN), else: fallback });

export const PATTERN_FIELDS = ["subject", "text", "sender"] as const;
/** A pattern's length; with matching in linear time and LONGEST_TEXT, what a pattern can cost. */
export const LONGEST_PATTERN = 300;

const captured = z.strictObject({
  pattern: z.string().min(1).max(LONGEST_PATTERN),
  in: z.enum(PATTERN_FIELDS),
  group: z.string().min(1).max(40).optional().describe("a named group; without one, the whole match"),
  else: fallback,
});

const computed = [taken, captured, answer] as const;

export const folder = z.union([z.string().min(1).max(200), ask("folder"), guess, ...computed]);
export const label = z.union([z.string().min(1).max(200), ask("label"), ...computed]);
export const marker = z.union([z.string().min(1).max(1), ask("marker"), answer]);
export const date = z.union([z.string().min(1).max(60), ask("date"), ...computed]);
export const text = z.union([z.string().min(1).max(2000), ask("text"), ...computed]);

export type Asked = {
  readonly ask: "folder" | "label" | "marker" | "date" | "text";
  readonly prompt?: string | undefined;
  readonly each?: true | undefined;
};
export type Computed = Readonly<z.infer<typeof taken>> | Readonly<z.infer<typeof captured>>;
export type Answered = Readonly<z.infer<typeof answer>>;
export type Guessed = Readonly<z.infer<typeof guess>>;
export type Value = string | Asked | Guessed | Answered | Computed;

const has = <K extends string>(value: unknown, key: K): value is Record<K, unknown> =>
  typeof value === "object" && value !== null && key in value;

export const isAsked = (value: unknown): value is Asked => has(value, "ask");
export const isGuessed = (value: unknown): value is Guessed => has(value, "guess");
export const isAnswered = (value: unknown): value is Answered => has(value, "answer") && !has(value, "do");
export const isTaken = (value: unknown): value is Extract<Computed, { take: Taken }> => has(value, "take");
export const isCaptured = (value: unknown): value is Extract<Computed, { pattern: string }> => has(value, "pattern");

function guessText({ nth, least, otherwise }: Guessed): string {
  const which = nth === undefined ? "as guessed" : `as guessed ${nth === 2 ? "second" : "third"}`;
  return [
    which,
    least === undefined ? "" : ` if at least ${least} % sure`,
    otherwise === undefined ? "" : `, else ${valueText(otherwise)}`,
  ].join("");
}

/** A value in a few words. */
export function valueText(value: Value): string {
  if (typeof value === "string") return value;
  if (isAsked(value)) return `ask ${value.ask}`;
  if (isGuessed(value)) return guessText(value);
  if (isAnswered(value)) return `answer “${value.answer}”`;
  if (isTaken(value)) return value.take;
  return value.group ? `“${value.group}” of a pattern` : "by a pattern";
}
