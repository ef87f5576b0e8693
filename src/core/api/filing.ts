import * as z from "zod";
import { count, longId, shortId } from "./parts";

/** Where mail belongs, as filing has taught. */

/** Messages asked about at once. */
export const MOST_GUESSED = 500;

export const guessShape = z.object({
  folder: shortId,
  percent: z.number().int().min(0).max(99).describe("of guesses like this so many were right"),
  why: z.string().array().describe("what spoke for it most, the strongest first"),
});
export type GuessShape = z.infer<typeof guessShape>;

export const guessesAnswer = z.object({
  messages: z.array(z.object({ id: longId, guesses: guessShape.array().describe("the likeliest first") })),
});
export type GuessesAnswer = z.infer<typeof guessesAnswer>;

export const filingShape = z.object({
  learned: count.describe("messages that taught where they belong"),
  due: count.describe("messages that are still to be looked at"),
  folders: z.array(
    z.object({
      folder: z.string().describe("path"),
      learned: count,
      signs: z.array(z.object({ text: z.string(), times: count })).describe("what is found there most often"),
    }),
  ),
});
export type FilingShape = z.infer<typeof filingShape>;

export const filingReset = z.strictObject({
  anew: z.boolean().describe("learn again from the folders as they are; else from what is filed from now on"),
});
