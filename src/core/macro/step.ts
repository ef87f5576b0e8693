import { z } from "zod";

/**
 * Steps as a person would write them, which is also how they are stored and sent: `do` is the step's name,
 * folders are paths, labels names, markers letters, times as core/when reads them. A value may be left to be
 * asked for when the macro runs.
 */
const ask = <K extends string>(kind: K) =>
  z.strictObject({ ask: z.literal(kind), prompt: z.string().trim().min(1).max(80).optional() });

const folder = z.union([z.string().min(1).max(200), ask("folder")]);
const label = z.union([z.string().min(1).max(200), ask("label")]);
const time = z.union([z.string().min(1).max(60), ask("date")]);
const text = z.union([z.string().min(1).max(2000), ask("text")]);

export type Asked = { readonly ask: "folder" | "label" | "date" | "text"; readonly prompt?: string | undefined };
export type Value = string | Asked;

const plain = <K extends string>(name: K) => z.strictObject({ do: z.literal(name) });

const exactlyOne =
  (...names: string[]) =>
  (step: object) =>
    names.filter((name) => (step as Record<string, unknown>)[name] !== undefined).length === 1;

export const stepSchema = z.discriminatedUnion("do", [
  z.strictObject({ do: z.literal("move"), to: folder }),
  z.strictObject({ do: z.literal("copy"), to: folder }),
  plain("archive"),
  plain("trash"),
  plain("junk"),
  plain("not junk"),
  plain("read"),
  plain("unread"),
  plain("toggle read"),
  z.strictObject({ do: z.literal("flag"), start: time.optional(), due: time.optional(), note: text.optional() }),
  plain("unflag"),
  plain("pin"),
  plain("unpin"),
  z
    .strictObject({ do: z.literal("label"), add: label.optional(), remove: label.optional(), toggle: label.optional() })
    .refine(exactlyOne("add", "remove", "toggle"), "a label step says one of add, remove or toggle"),
  z
    .strictObject({
      do: z.literal("marker"),
      set: z.string().min(1).max(1).optional(),
      next: z.literal(true).optional(),
      clear: z.literal(true).optional(),
    })
    .refine(exactlyOne("set", "next", "clear"), "a marker step says one of set, next or clear"),
  z.strictObject({ do: z.literal("note"), text }),
  plain("stop"),
]);

export type Step = Readonly<z.infer<typeof stepSchema>>;
export type StepKind = Step["do"];

export const MOST_STEPS = 50;

export const stepsSchema = z.array(stepSchema).max(MOST_STEPS, `a macro holds at most ${MOST_STEPS} steps`);

export const isAsked = (value: unknown): value is Asked =>
  typeof value === "object" && value !== null && "ask" in value;
