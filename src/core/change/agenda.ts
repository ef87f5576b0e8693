import * as z from "zod";

/** What is planned: calendars and what is in them. */

/** How one who was asked has answered, by RFC 5545's PARTSTAT. */
export const REPLIES = ["needs-action", "accepted", "tentative", "declined"] as const;
export type ReplyState = (typeof REPLIES)[number];
export const EVENT_STATES = ["confirmed", "tentative", "cancelled"] as const;

const WALL = /^\d{4}-\d{2}-\d{2}(T\d{2}:\d{2}(:\d{2})?)?$/;
const wall = z.string().regex(WALL);

const attendee = z.strictObject({
  address: z.string(),
  name: z.string(),
  reply: z.enum(REPLIES),
});

export const calendarEventValue = z.strictObject({
  calendar: z.number().int(),
  /** RFC 5545's UID: the same in every program. An instance that was changed has that of its series. */
  uid: z.string(),
  /** How often it was changed for those who were asked. */
  sequence: z.number().int(),
  title: z.string(),
  place: z.string(),
  note: z.string(),
  /** By the clock on the wall of its zone: "2026-11-27T10:00", or "2026-11-27" for whole days. */
  start: wall,
  /** Seconds; a whole number of days for whole days. */
  length: z.number().int().min(0),
  /** IANA name; "" for the person's, wherever that is: whole days, and times that are said in no zone. */
  zone: z.string(),
  busy: z.boolean(),
  state: z.enum(EVENT_STATES),
  /** RFC 5545 recurrence rules, one a line, without "RRULE:"; null for once. */
  rule: z.string().nullable(),
  /** When it is besides its rule, and when it is not in spite of it: by its wall clock, as its start. */
  also: z.array(wall),
  except: z.array(wall),
  /** For an instance that was changed: when its series would have it; null otherwise. */
  instead: wall.nullable(),
  /** The task it is time for. */
  task: z.number().int().nullable(),
  /** The narrowing it is time to work through, as a person writes it; null for no block of time. */
  block: z.string().nullable(),
  /** So many minutes before it begins it is said. */
  remind: z.number().int().nullable(),
  /** Who asks, in lower case; "" for what is one's own. */
  organizer: z.string(),
  attendees: z.array(attendee),
});
export type CalendarEvent = Readonly<z.infer<typeof calendarEventValue>>;
export type Attendee = z.infer<typeof attendee>;

export const CALENDAR_COLOURS = ["spruce", "slate", "plum", "amber", "brick"] as const;
export const calendarValue = z.strictObject({ name: z.string(), colour: z.enum(CALENDAR_COLOURS) });
export type Calendar = Readonly<z.infer<typeof calendarValue>>;

/** An event about which nothing else is known. */
export const PLAIN_EVENT: Omit<CalendarEvent, "calendar" | "uid" | "title" | "start" | "length"> = {
  sequence: 0,
  place: "",
  note: "",
  zone: "",
  busy: true,
  state: "confirmed",
  rule: null,
  also: [],
  except: [],
  instead: null,
  task: null,
  block: null,
  remind: null,
  organizer: "",
  attendees: [],
};
