import * as z from "zod";
import { ASIDE_STATES, LEAVING_STATES, LEAVING_WAYS } from "../change";
import { count, longId, shortId, text, time } from "./parts";

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
  messages: z.array(
    z.object({
      id: longId,
      guesses: guessShape.array().describe("the likeliest first"),
      junk: z
        .object({ percent: z.number().int().min(0).max(99), why: z.string().array() })
        .nullable()
        .describe("how probably it is junk, as the person's own verdicts have taught; null where nothing tells"),
    }),
  ),
});
export type GuessesAnswer = z.infer<typeof guessesAnswer>;

const signs = z.array(z.object({ text: z.string(), times: count }));
export const filingShape = z.object({
  learned: count.describe("messages that taught where they belong"),
  due: count.describe("messages that are still to be looked at"),
  junk: z.object({
    junk: count.describe("messages that taught what is junk"),
    wanted: count.describe("and what is not"),
    signs: signs.describe("what is found in junk most often"),
  }),
  folders: z.array(
    z.object({
      folder: z.string().describe("path"),
      learned: count,
      signs: signs.describe("what is found there most often"),
    }),
  ),
});
export type FilingShape = z.infer<typeof filingShape>;

export const filingReset = z.strictObject({
  anew: z.boolean().describe("learn again from the folders as they are; else from what is filed from now on"),
});

export const senderShape = z.object({
  source: z.string().describe("“list” or “sender” with its id or address"),
  isList: z.boolean(),
  name: z.string(),
  address: z.string().describe("of the newest message"),
  senders: count.describe("addresses that write to the list; 1 for a sender"),
  newest: longId.describe("the newest message"),
  months: count.array().describe("messages by month, the oldest first; the last is this month"),
  total: count.describe("messages in these months, junk left out"),
  read: count,
  answered: count,
  trashedUnread: count,
  inbox: count,
  unreadMonthly: z.number().min(0).describe("messages a month that were not read, of the last three months"),
  lastRead: time.nullable().describe("when the last message that was read was written"),
  bytes: z.number().min(0),
  blocked: z.boolean(),
  narrow: z.string().describe("an expression for all of it"),
  aside: z
    .enum(ASIDE_STATES)
    .nullable()
    .describe("whether it stands aside from now on, or is not to be offered for it"),
  offer: z.string().nullable().describe("why it could stand aside; null where it is not offered"),
  leaving: z
    .object({
      state: z.enum(LEAVING_STATES),
      how: z.enum(LEAVING_WAYS),
      page: z.string().nullable().describe("where a person can leave it by hand"),
      at: time.describe("when it was asked; while it waits, when it will be"),
      said: z.string().nullable().describe("why it could not be left"),
      since: count.describe("messages that have come since"),
    })
    .nullable()
    .describe("that it was asked to send nothing more"),
});
export const blockedShape = z.object({
  address: z.string().describe("in lower case; “@shop.example” is everybody there"),
});
export type BlockedShape = z.infer<typeof blockedShape>;
export const newBlocked = z
  .object({
    address: text(320)
      .trim()
      .regex(/^[^\s@<>,;]*@[^\s@<>,;]+$/, "write one address, such as ads@shop.example, or a domain as @shop.example"),
  })
  .strict();
export const leaveRequest = z.strictObject({ sources: z.array(text(1010, 1)).min(1).max(200) });
export const leaveAnswer = z.object({
  asked: z.string().array().describe("sources that are asked by one request, once that was held back"),
  written: z.string().array().describe("sources a letter is on its way to"),
  pages: z.array(z.object({ source: z.string(), page: z.string() })).describe("only a person can leave these"),
  none: z.string().array().describe("sources that say no way to leave"),
});
export const asideRequest = z.strictObject({
  sources: leaveRequest.shape.sources,
  aside: z.boolean().describe("from now on, with what is in the inbox; false for no more, and no offer of it"),
});
export const blockRequest = z.strictObject({ addresses: z.array(newBlocked.shape.address).min(1).max(200) });
export type LeaveAnswer = z.infer<typeof leaveAnswer>;
export type SenderShape = z.infer<typeof senderShape>;
