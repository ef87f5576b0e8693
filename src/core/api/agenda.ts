import * as z from "zod";
import { INVITATION_KINDS, SCOPES, troubleOf } from "../calendar";
import { CALENDAR_COLOURS, calendarEventValue, EVENT_STATES, REPLIES } from "../change";
import { isAddress } from "../letter";
import { longId, text, time } from "./parts";

/** What is planned: calendars, what is in them, and work put into free time. */

const colour = z.enum(CALENDAR_COLOURS);
const calendarName = text(80, 1);

export const calendarShape = z
  .object({
    id: longId,
    name: z.string(),
    colour,
    events: z.number().int().describe("how many are in it, a series as one"),
    address: z.string().nullable().describe("the path under which other programs read it; null for none"),
  })
  .meta({ id: "Calendar" });
export type CalendarShape = z.infer<typeof calendarShape>;
export const newCalendar = z.strictObject({ name: calendarName, colour: colour.default("spruce") });
export const calendarPatch = z.strictObject({ name: calendarName, colour }).partial();

export const eventShape = z
  .object({
    ...calendarEventValue.shape,
    id: longId,
    message: longId.nullable().describe("the message it came from, while it is there"),
  })
  .meta({ id: "Event" });
export type EventShape = z.infer<typeof eventShape>;

const isTime = (wall: string): boolean => {
  const ms = Date.parse(`${wall}${wall.length === 10 ? "T00:00" : ""}Z`);
  return !Number.isNaN(ms) && new Date(ms).toISOString().startsWith(wall);
};
const wall = z
  .string()
  .regex(/^(19|[2-9]\d)\d{2}-\d{2}-\d{2}(T\d{2}:\d{2}(:\d{2})?)?$/, 'write it as "2026-11-27T10:00" or "2026-11-27"')
  .refine(isTime, "there is no such day or time");
/** A hundred years of seconds. */
const length = z.number().int().min(0).max(3_200_000_000);
const rule = text(500).superRefine((value, context) => {
  for (const line of value.split("\n")) {
    const trouble = troubleOf(line);
    if (trouble !== null) context.addIssue({ code: "custom", message: trouble });
  }
});
const zone = text(80).refine((name) => {
  try {
    return name === "" || Boolean(new Intl.DateTimeFormat("en", { timeZone: name }));
  } catch {
    return false;
  }
}, "no such time zone is known");
const attendees = z
  .array(
    z.strictObject({
      address: text(254)
        .refine(isAddress, "that is no address")
        .transform((address) => address.toLowerCase()),
      name: text(200).default(""),
      reply: z.enum(REPLIES).default("needs-action"),
    }),
  )
  .max(500);

const fields = {
  calendar: longId.describe("which calendar it is in; the first where nothing is said"),
  title: text(500).trim().min(1, "say what it is"),
  place: text(500),
  note: text(20_000),
  start: wall.describe("by the clock on the wall of its zone; by the day only for whole days"),
  length: length.describe("seconds; whole days are a number of them"),
  zone: zone.describe("IANA name; empty for the person's"),
  busy: z.boolean(),
  state: z.enum(EVENT_STATES),
  rule: rule.nullable().describe("RFC 5545 recurrence rule, without RRULE:"),
  block: text(2000).nullable().describe("the narrowing that is worked through then"),
  remind: z.number().int().min(0).max(40_320).nullable().describe("so many minutes before it begins it is said"),
  attendees,
};

const wholeDays = ({ start, length: seconds }: { start?: string; length?: number }): boolean =>
  start?.length !== 10 || seconds === undefined || (seconds > 0 && seconds % 86_400 === 0);
const NOT_WHOLE = "whole days last a whole number of days";

export const newEvent = z
  .strictObject({
    ...fields,
    calendar: fields.calendar.optional(),
    place: fields.place.default(""),
    note: fields.note.default(""),
    zone: fields.zone.default(""),
    busy: fields.busy.default(true),
    state: fields.state.default("confirmed"),
    rule: fields.rule.default(null),
    block: fields.block.default(null),
    remind: fields.remind.default(null),
    attendees: fields.attendees.default([]),
    message: longId.nullable().default(null).describe("the message it is about"),
    task: longId.nullable().default(null).describe("the task it is time for"),
  })
  .refine(wholeDays, NOT_WHOLE);

const scope = z.enum(SCOPES).describe("of what comes again: one of it, that and all that follow, or all");
export const eventPatch = z
  .strictObject({ ...fields, scope, at: wall.describe("which one of it, as its series has it") })
  .partial()
  .refine(wholeDays, NOT_WHOLE);
export const eventScope = z.strictObject({ scope: scope.default("all"), at: wall.optional() });

export const occurrenceShape = z.object({
  event: longId,
  at: z.string().describe("which one of its series"),
  start: time,
  end: time,
  title: z.string(),
  calendar: longId,
  busy: z.boolean(),
});

export const agendaShape = z
  .object({
    occurrences: occurrenceShape.array(),
    cut: z.boolean().describe("something comes again more often than could be looked at"),
    tasks: longId.array().describe("open tasks due in the range"),
    flags: longId.array().describe("messages with a flag due in the range"),
  })
  .meta({ id: "Agenda" });

const span = z.object({ start: time, end: time });
export const moveShape = z.object({
  task: longId,
  events: longId.array().max(200).describe("times of the task that are given up"),
  before: span.array(),
  after: span.array().max(200),
});
export type MoveShape = z.infer<typeof moveShape>;
export const fitShape = z
  .object({
    moves: moveShape.array(),
    proofs: z
      .object({
        task: longId.describe("which cannot be in time"),
        by: time,
        tasks: longId.array().describe("all that is due by then, this one among it"),
        needs: z.number().describe("minutes that it takes together"),
        room: z.number().describe("minutes that are free by then"),
      })
      .array(),
    left: longId.array().describe("tasks for which there is no room in the next weeks"),
  })
  .meta({ id: "Fit" });
export type FitShape = z.infer<typeof fitShape>;
export const fitRequest = z.strictObject({
  moves: moveShape.omit({ before: true }).strict().array().min(1, "there is nothing to move").max(2000),
});
/** Times to offer somebody. */
export const offersShape = z
  .object({ start: time, end: time, text: z.string().describe("as it is written in a letter") })
  .array()
  .meta({ id: "Offers" });
export type OffersShape = z.infer<typeof offersShape>;
export const taskTime = z.strictObject({
  start: time.optional().describe("when; the first free time before it is due where nothing is said"),
  minutes: z.number().int().min(5).max(1440).optional().describe("its estimate where nothing is said"),
});

export const taskTimeAnswer = span;

export const icsTaken = z
  .object({
    events: z.number().int().describe("new or changed, a series with its exceptions as one"),
    same: z.number().int().describe("that were here already"),
    tasks: z.number().int(),
    problems: z.object({ line: z.number().int(), text: z.string() }).array(),
    more: z.number().int().describe("problems besides those that are listed"),
  })
  .meta({ id: "IcsTaken" });
export type IcsTaken = z.infer<typeof icsTaken>;

export const INVITATION_DEEDS = ["accepted", "tentative", "declined", "note", "take", "remove"] as const;
export const invitationShape = z
  .object({
    kind: z
      .enum(INVITATION_KINDS)
      .describe("asked anew, changed, old by now, called off, answered, or another time proposed"),
    title: z.string(),
    place: z.string(),
    rule: z.string().nullable(),
    start: time,
    end: time,
    wholeDays: z.boolean(),
    organizer: z.string(),
    attendees: eventShape.shape.attendees,
    reply: z.enum(REPLIES).nullable().describe("what was answered; null where one is not asked"),
    event: longId.nullable().describe("the event, where it is in a calendar"),
    before: z.object({ start: time, end: time }).nullable().describe("when it was, where that is another time"),
    clashes: occurrenceShape.array().describe("what else takes that time"),
    problems: z.string().array(),
  })
  .meta({ id: "Invitation" });
export type InvitationShape = z.infer<typeof invitationShape>;
export const invitationAnswer = z.strictObject({
  do: z.enum(INVITATION_DEEDS).describe("answer it, note what was answered, take the time proposed, or take it out"),
});
export const tellRequest = z.strictObject({
  what: z.enum(["changed", "off"]).describe("how it is now, or that it does not take place"),
});
export const inviteRequest = z.strictObject({
  people: attendees.min(1, "say whom").describe("who is asked, besides those who were"),
});
