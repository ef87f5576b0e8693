import * as z from "zod";
import { count, longId, shortId, text } from "./parts";

/** What is done with mail that comes in, without anybody there. */

const narrow = text(2000);

export const ruleShape = z
  .object({
    id: shortId,
    narrow: narrow.describe("which mail of the inbox it is for"),
    macro: shortId.nullable().describe("what is done; null where the macro was deleted"),
    on: z.boolean(),
    stop: z.boolean().describe("rules after it leave alone what it was for"),
    trouble: z
      .string()
      .nullable()
      .describe("why it could not be done last; after three times in a row it is switched off"),
    touched: z.number().int().describe("messages it was for in the last seven days"),
  })
  .meta({ id: "Rule" });
export type RuleShape = z.infer<typeof ruleShape>;

export const newRule = z.strictObject({
  narrow: ruleShape.shape.narrow,
  macro: shortId,
  on: z.boolean().default(true),
  stop: z.boolean().default(false),
});
export const rulePatch = z
  .strictObject({
    narrow: ruleShape.shape.narrow,
    macro: shortId,
    on: z.boolean(),
    stop: z.boolean(),
    position: count.describe("place in the order"),
    deleted: z.literal(false).describe("brings a deleted rule back, where it stood"),
  })
  .partial();
export const exceptShape = z.strictObject({ ids: z.array(longId).min(1).max(1000) });
