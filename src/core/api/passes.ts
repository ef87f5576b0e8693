import * as z from "zod";
import { ORDERS } from "../list";
import { count, longId, text, time } from "./parts";

/** Passes: walks through messages, one at a time, that can be left and gone on with anywhere. */

export const MOST_IN_PASS = 100_000;
const LONGEST_DEED_MS = 86_400_000;

export const passShape = z.object({
  id: z.uuid(),
  name: z.string().describe("what it goes through, in words"),
  narrow: z.string().describe("what it was begun on"),
  order: z.enum(ORDERS),
  at: longId.nullable().describe("the message it was left at"),
  through: z.number().int().min(0).describe("messages with larger ids have come since it was begun"),
  limit: count.nullable().describe("minutes the person wants to give it"),
  startedAt: time,
  endedAt: time.nullable(),
  length: count.describe("messages in its queue"),
  decided: count.describe("of them; what was taken back is not"),
});
export type PassShape = z.infer<typeof passShape>;

export const deedShape = z.object({
  message: longId,
  run: z.uuid(),
  macro: z.string().describe("what it was called"),
  ms: count.describe("how long the message was before the eyes, milliseconds"),
  at: time,
});

export const passDetail = passShape.extend({
  queue: z.array(longId).describe("in no order of their own"),
  skipped: z.array(longId).describe("passed over undecided"),
  deeds: z.array(deedShape),
});
export type PassDetail = z.infer<typeof passDetail>;

const ids = z.array(longId).max(MOST_IN_PASS);
export const newPass = z.strictObject({
  id: z.uuid().describe("made by the client: the same id again returns the first one"),
  name: text(200, 1),
  narrow: text(2000),
  order: z.enum(ORDERS),
  queue: ids.min(1, "there is no message to go through"),
});
export const passPatch = z
  .strictObject({
    at: longId,
    order: z.enum(ORDERS),
    limit: z.number().int().min(1).max(1440).nullable(),
    skip: ids.describe("passed over now"),
    add: ids.describe("what has come since and is to be gone through as well"),
    ended: z.boolean(),
  })
  .partial();

/** The pass a run was decided in, and how long its message was before the eyes. */
export const inPass = z.strictObject({ id: z.uuid(), ms: count.max(LONGEST_DEED_MS) });
