import * as z from "zod";
import { count } from "./parts";

/** The simulated mail service that ships with the app, as its panel and tests drive it. */

export const SIMULATOR_MODES = ["well", "slow", "busy", "breaking", "away"] as const;
const rate = z.number().min(0).max(3600).describe("messages an hour that come by themselves");
const mode = z
  .enum(SIMULATOR_MODES)
  .describe("well; slow; busy: refuses for now; breaking: takes messages and breaks off before it says so; away");

const share = z.number().min(0).max(1);
const answers = share.describe("of what is sent, so much is answered");
const bounces = share.describe("and so much cannot be delivered, which is reported");
const answerAfter = z.number().int().min(0).max(86_400).describe("seconds after which an answer comes");
const utf8 = z.boolean().describe("whether it takes addresses outside ASCII");

export const simulatorShape = z.object({
  rate,
  mode,
  answers,
  bounces,
  answerAfter,
  utf8,
  received: count.describe("messages it was given to deliver, counted once for each recipient"),
  reported: count.describe("messages it was told are junk, or meant to deceive"),
  left: count.describe("lists it was asked to leave, by one request each"),
  made: count.describe("messages it has written so far"),
  waiting: count.describe("messages it has that are not taken in yet"),
  trouble: z.string().nullable().describe("why it could not be asked last; null while it answers"),
});
export type SimulatorShape = z.infer<typeof simulatorShape>;
export const simulatorPatch = z.object({ rate, mode, answers, bounces, answerAfter, utf8 }).partial().strict();
export const mailRequest = z.object({ count: z.number().int().min(1).max(1000) }).strict();
