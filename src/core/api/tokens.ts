import * as z from "zod";
import { text } from "./parts";

/** Tokens: programs that act for a person, and what they may. */

/** Read: all there is. Decide: what is taken back by undo. Send: what goes out to others, now or by a rule later. */
export const SCOPES = ["read", "decide", "send"] as const;
export type Scope = (typeof SCOPES)[number];

const MOST_DAYS = 3650;

export const newTokenShape = z.object({
  name: text(100, 1).refine((given) => given.trim() !== "", "write something"),
  scopes: z.array(z.enum(SCOPES)).min(1, "it may do nothing at all").max(SCOPES.length),
  days: z.number().int().min(1).max(MOST_DAYS).nullable().describe("how long it lasts; null until it is ended"),
});

const at = z.number().describe("milliseconds since 1970");
export const tokenShape = z.object({
  id: z.uuid(),
  name: z.string(),
  scopes: z.enum(SCOPES).array(),
  created: at,
  used: at.nullable().describe("when it was used last, to a minute"),
  ends: at.nullable(),
});
export type TokenShape = z.infer<typeof tokenShape>;

export const madeTokenShape = z.object({ token: z.string().describe("shown only now") });
