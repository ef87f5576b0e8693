import * as z from "zod";
import { count, shortId } from "./parts";

/** Figures: what comes, what is decided, what waits, and what it takes. Times are in milliseconds. */

const day = z.iso.date();

export const PACE_BY = ["hour", "day", "week"] as const;
export type PaceBy = (typeof PACE_BY)[number];

const waits = z.object({
  count,
  median: z.number().nullable(),
  most: z.number().nullable().describe("nine of ten took no longer"),
});

const flow = z.object({
  at: z.string().describe("a day, the Monday of a week, or a day with its hour: 2026-11-23T09"),
  came: count,
  decided: count.describe("by the person"),
  filed: count.describe("by rules, servers and the clock"),
});

const days = z.number().int().nullable().describe("days; null for never");

export const paceShape = z.object({
  from: day,
  to: day,
  by: z.enum(PACE_BY),
  since: day.describe("what was decided before is not known"),
  place: z.object({ id: shortId, name: z.string(), open: count }),
  places: z.array(z.object({ id: shortId, name: z.string(), open: count })),
  flow: z.array(flow),
  ages: z.array(count).describe("days from which the layers of a backlog begin"),
  backlog: z.array(z.object({ day, total: count, layers: z.array(count) })),
  week: z
    .object({ came: z.array(z.array(z.number())), decided: z.array(z.array(z.number())) })
    .describe("a usual week: seven days from Monday, 24 hours each"),
  waits: waits.describe("from coming to being decided by the person"),
  answers: waits.describe("from a message to the person's answer"),
  passes: z.object({
    count,
    decided: count,
    skipped: count,
    minutes: z.number(),
    pace: z.number().nullable().describe("messages a minute"),
  }),
  forecast: z
    .object({
      days: count.describe("past days it is told from"),
      gain: z.number().describe("decisions less arrivals a day"),
      empty: z.object({ soonest: days, likely: days, latest: days }),
      until: day,
      needed: z.object({ likely: z.number(), atMost: z.number() }).describe("decisions a day to be empty by then"),
    })
    .nullable()
    .describe("null where too few days have passed to tell"),
});
export type PaceShape = z.infer<typeof paceShape>;

export const paceSourceShape = z.object({
  source: z.string(),
  name: z.string(),
  isList: z.boolean(),
  narrow: z.string(),
  came: count,
  decided: count,
  open: count,
  unread: count.describe("of those that came, and are there still"),
  waits,
});
export type PaceSourceShape = z.infer<typeof paceSourceShape>;

export const paceMacroShape = z.object({
  macro: shortId.nullable(),
  name: z.string(),
  runs: count,
  messages: count,
  byKey: count.describe("of the runs"),
  bySwipe: count,
  keys: z.number().describe("keys and presses saved against doing the same by hand"),
  seconds: z.number().describe("by the keystroke-level model"),
});
export type PaceMacroShape = z.infer<typeof paceMacroShape>;

export const paceReviewShape = z.object({
  week: day.describe("its Monday"),
  came: count,
  decided: count,
  filed: count,
  before: z.object({ came: count, decided: count }).describe("the week before"),
  open: count,
  oldest: z.number().nullable().describe("how long what waits longest has waited"),
  neglected: z.array(z.object({ name: z.string(), narrow: z.string(), open: count, days: z.number() })),
  unread: z.array(z.object({ name: z.string(), narrow: z.string(), count })),
  rules: z.array(z.object({ narrow: z.string(), folder: z.string(), messages: count })),
  macros: z.array(z.object({ name: z.string(), times: count })),
  saved: z.object({ keys: z.number(), seconds: z.number() }),
});
export type PaceReviewShape = z.infer<typeof paceReviewShape>;

/** What can be had as a table of comma-separated values. */
export const PACE_FIGURES = ["flow", "backlog", "week", "senders", "macros"] as const;
export type PaceFigure = (typeof PACE_FIGURES)[number];
