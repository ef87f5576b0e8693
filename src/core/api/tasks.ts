import * as z from "zod";
import { REPEAT } from "../agenda";
import { longId, text, time } from "./parts";

/** What is to be done. */

const title = text(300).trim().min(1, "say what is to be done");
const minutes = z.number().int().min(1).max(10_000);
const repeat = z.string().regex(REPEAT, "write how often it comes again: 1 day, 2 week, 1 workday, 1 month or 1 year");

export const taskShape = z
  .object({
    id: longId,
    message: longId.nullable().describe("the message it was made from, while it is there"),
    title: z.string(),
    due: time.nullable(),
    estimate: z.number().int().nullable().describe("minutes"),
    about: z.string().describe("who the message was from and what it was about"),
    done: z.boolean(),
    pressing: z.boolean(),
    waiting: z.boolean().describe("for somebody else: it is never overdue"),
    repeat: z.string().nullable().describe("how often it comes again: 1 day, 2 week, 1 workday, 1 month, 1 year"),
  })
  .meta({ id: "Task" });
export type TaskShape = z.infer<typeof taskShape>;

const fields = {
  title,
  due: time.nullable(),
  estimate: minutes.nullable(),
  pressing: z.boolean(),
  waiting: z.boolean(),
  repeat: repeat.nullable(),
};
export const newTask = z.strictObject({
  title,
  due: fields.due.default(null),
  estimate: fields.estimate.default(null),
  pressing: fields.pressing.default(false),
  waiting: fields.waiting.default(false),
  repeat: fields.repeat.default(null),
  message: longId.nullable().default(null).describe("the message it is about"),
});
export const taskPatch = z
  .strictObject({
    ...fields,
    done: z.boolean().describe("one that comes again is due next time instead, and not done"),
  })
  .partial();
