import * as z from "zod";
import { FRAME_ACTIONS, readSequence, type FrameAction } from "../keys";
import { shortId, text, time } from "./parts";
import { weekShape } from "./rules";

/** What a person has chosen for all of the app. */

export const practiceShape = z.object({
  begun: time,
  macro: z.number().int().describe("the newest macro there was then: what is made while practising is newer"),
  over: z.boolean().describe("it is not offered any more"),
});
export type PracticeShape = z.infer<typeof practiceShape>;

const keepDays = z.number().int().min(1).max(3650).nullable();
export const settingsShape = z.object({
  ledgerDays: z.number().int().min(7).max(3650).nullable().describe("how long runs are kept; null for ever"),
  trashDays: keepDays.describe("how long trash keeps a message; null until it is emptied by hand"),
  junkDays: keepDays.describe("the same for junk"),
  frame: z
    .partialRecord(
      z.enum(Object.keys(FRAME_ACTIONS) as [FrameAction, ...FrameAction[]]),
      z.array(text(120).refine((keys) => readSequence(keys) !== null, "these are no keys")).max(5),
    )
    .describe("frame actions that are on other keys than usual"),
  order: z.enum(["newest", "oldest"]).describe("how lists are ordered where nothing else was chosen"),
  pinnedFirst: z.boolean().describe("whether pinned messages stand on top of lists"),
  readAfter: z
    .number()
    .int()
    .min(0)
    .max(60)
    .nullable()
    .describe("seconds after which an opened message counts as read; null for never"),
  lookSeconds: z
    .number()
    .int()
    .min(10)
    .max(3600)
    .nullable()
    .describe("a message of a pass that is looked at longer shows that; null for no timer"),
  holdSeconds: z.number().int().min(0).max(120).describe("how long a message is held back before it leaves"),
  mostPeople: z.number().int().min(1).max(1000).describe("a letter to more people than this is asked about"),
  afterwards: shortId
    .nullable()
    .describe("the macro that is run on the answered message with Ctrl+Shift+Enter; null for none"),
  leastSure: z
    .number()
    .int()
    .min(0)
    .max(100)
    .describe("percent: a folder is guessed where it is at least so sure; below that, it is asked for"),
  workHours: weekShape.describe("in which tasks are given time"),
  practice: practiceShape.nullable().describe("practising on letters of nobody's; null for not begun"),
});
export const settingsPatch = settingsShape.omit({ practice: true }).partial().strict();
