import * as z from "zod";
import { count } from "./parts";

/** The simulated mail service that ships with the app, as its panel and tests drive it. */

export const SIMULATOR_MODES = ["well", "slow", "away"] as const;
const rate = z.number().min(0).max(3600).describe("messages an hour that come by themselves");
const mode = z.enum(SIMULATOR_MODES).describe("how it behaves");

export const simulatorShape = z.object({
  rate,
  mode,
  made: count.describe("messages it has written so far"),
  waiting: count.describe("messages it has that are not taken in yet"),
  trouble: z.string().nullable().describe("why it could not be asked last; null while it answers"),
});
export type SimulatorShape = z.infer<typeof simulatorShape>;
export const simulatorPatch = z.object({ rate, mode }).partial().strict();
export const mailRequest = z.object({ count: z.number().int().min(1).max(1000) }).strict();
