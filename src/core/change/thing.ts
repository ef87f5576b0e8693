import * as z from "zod";
import type { Brand, MessageId } from "../id";
import { calendarEventValue, calendarValue, type Calendar, type CalendarEvent } from "./agenda";

/** Something to do. It keeps a copy of what it needs of its message, which may be deleted for good. */
export interface Task {
  readonly title: string;
  /** ISO 8601 in UTC, like all dates of changes. */
  readonly due: string | null;
  /** Minutes. */
  readonly estimate: number | null;
  /** Who the message was from and what it was about. */
  readonly about: string;
  readonly done: boolean;
  readonly pressing: boolean;
  /** For somebody else: it is not one's own turn. */
  readonly waiting: boolean;
  /** How often it comes again once it is done, as core/agenda reads it; null for once. */
  readonly repeat: string | null;
}

/** What a task is where nothing is said. */
export const PLAIN_TASK = {
  due: null,
  estimate: null,
  about: "",
  done: false,
  pressing: false,
  waiting: false,
  repeat: null,
} as const satisfies Partial<Task>;

export interface Contact {
  readonly name: string;
  readonly note: string;
}

/**
 * What has become of a message on its way: not gone yet, whatever keeps it; on the wire; gone; or nobody knows, since
 * whoever was sending it ended in the middle.
 */
export const HELD_STATES = ["waiting", "sending", "sent", "unsure"] as const;
export type HeldState = (typeof HELD_STATES)[number];

/** A run that waits for a draft to be sent. */
export interface Pause {
  readonly run: string;
  readonly message: number;
  /** The step behind which it goes on. */
  readonly at: string;
  /** The macro as it was, with those it calls, and what was answered, as JSON. */
  readonly macro: string;
}

/** That a list, or a sender, was asked to send nothing more. */
export const LEAVING_STATES = ["waiting", "left", "refused"] as const;
/** By one request, by a letter, by a page that a person has to look at, or as its newest message will say. */
export const LEAVING_WAYS = ["click", "letter", "page", "look"] as const;
export interface Leaving {
  readonly how: (typeof LEAVING_WAYS)[number];
  /** The address that was asked, or the page; "" while that is to be looked up. */
  readonly target: string;
  /** The account its mail came through; 0 for none. */
  readonly account: number;
  readonly state: (typeof LEAVING_STATES)[number];
}

/** Whether a source's mail stands aside from now on, or is not to be offered for it again. */
export const ASIDE_STATES = ["aside", "declined"] as const;
export type Aside = (typeof ASIDE_STATES)[number];

/** That a message's service is told what the message is. */
export const REPORTED_AS = ["junk", "deceit"] as const;
export const REPORT_STATES = ["waiting", "told", "refused"] as const;
export interface Report {
  readonly as: (typeof REPORTED_AS)[number];
  readonly state: (typeof REPORT_STATES)[number];
}

/** Whose mail a message is: a list's, or else its sender's. "list ridge.notes", "sender bo@larch.example" */
export const sourceOf = (list: string, address: string): string =>
  list === "" ? `sender ${address.toLowerCase()}` : `list ${list.toLowerCase()}`;

/** What a kind of thing is when it is there; null stands for none. */
export interface ThingValues {
  readonly task: Task;
  readonly contact: Contact;
  readonly blocked: true;
  /** Whether the folder is there: what it is called is no part of it, so that a renamed one can be taken back too. */
  readonly folder: true;
  readonly label: true;
  /** By the message that is on its way. */
  readonly held: HeldState;
  /** By the draft. */
  readonly pause: Pause;
  /** By its source: "list ridge.notes", "sender bo@larch.example". */
  readonly leaving: Leaving;
  /** By its source too. */
  readonly aside: Aside;
  /** By the message. */
  readonly report: Report;
  /** That a sender is on a list that rules are for; by listedKey. */
  readonly listed: true;
  readonly calendar: Calendar;
  readonly event: CalendarEvent;
}

export type ThingKind = keyof ThingValues;
export type ThingValue = ThingValues[ThingKind];

/** Numbers as a person's tables hold them, or an address in lower case. */
const NUMBER = /^[1-9]\d{0,15}$/;
/** Letters that have no lower case stay as they are, however large they look. */
const ADDRESS = /^\P{Changes_When_Lowercased}{1,1000}$/u;
const SOURCE = /^(list|sender) \P{Changes_When_Lowercased}{1,1000}$/u;
/** A list's name, and an address. */
const LISTED = /^[^\n\p{Changes_When_Lowercased}]{1,80}\n[^\n\p{Changes_When_Lowercased}]{1,1000}$/u;
const there = z.literal(true);

/** Lists are one whatever the case of their names. */
export const listedKey = (list: string, address: string): string => `${list.toLowerCase()}\n${address.toLowerCase()}`;
export function readListed(key: string): { readonly list: string; readonly address: string } {
  const at = key.indexOf("\n");
  return { list: key.slice(0, at), address: key.slice(at + 1) };
}

/**
 * Everything that is not a message and that changes may write: how it is named, and how its values are stored.
 * A new kind does not compile before it is described here, and before the store knows its table.
 */
export const THINGS = {
  task: {
    key: NUMBER,
    value: z.strictObject({
      title: z.string(),
      due: z.iso.datetime().nullable(),
      estimate: z.number().nullable(),
      about: z.string(),
      done: z.boolean(),
      // What was noted before there were these has none of them.
      pressing: z.boolean().default(false),
      waiting: z.boolean().default(false),
      repeat: z.string().nullable().default(null),
    }),
  },
  contact: { key: ADDRESS, value: z.strictObject({ name: z.string(), note: z.string().default("") }) },
  blocked: { key: ADDRESS, value: there },
  folder: { key: NUMBER, value: there },
  label: { key: NUMBER, value: there },
  held: { key: NUMBER, value: z.enum(HELD_STATES) },
  pause: {
    key: NUMBER,
    value: z.strictObject({ run: z.string(), message: z.number(), at: z.string(), macro: z.string() }),
  },
  leaving: {
    key: SOURCE,
    value: z.strictObject({
      how: z.enum(LEAVING_WAYS),
      target: z.string(),
      account: z.number().int(),
      state: z.enum(LEAVING_STATES),
    }),
  },
  aside: { key: SOURCE, value: z.enum(ASIDE_STATES) },
  listed: { key: LISTED, value: there },
  calendar: { key: NUMBER, value: calendarValue },
  event: { key: NUMBER, value: calendarEventValue },
  report: { key: NUMBER, value: z.strictObject({ as: z.enum(REPORTED_AS), state: z.enum(REPORT_STATES) }) },
} as const satisfies { [K in ThingKind]: { readonly key: RegExp; readonly value: z.ZodType<ThingValues[K]> } };

export const THING_KINDS = Object.keys(THINGS) as ThingKind[];

/** One write to one thing, with both ends. A thing is one cell however many messages it was made from. */
export type ThingEdit = {
  [K in ThingKind]: {
    readonly kind: K;
    /** A number as text, or an address in lower case. For what is on its way and for pauses: the message's. */
    readonly key: string;
    /** The message it was made from; null where there is none. */
    readonly about: MessageId | null;
    readonly before: ThingValues[K] | null;
    readonly after: ThingValues[K] | null;
  };
}[ThingKind];

/** "task:12", "contact:ines@larch.example" */
export type ThingKey = Brand<string, "ThingKey">;

export const thingKey = (edit: Pick<ThingEdit, "kind" | "key">): ThingKey => `${edit.kind}:${edit.key}` as ThingKey;

/** Equality of two values of one thing: they are made of plain objects, lists and simple values. */
export function sameThing(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  const [left, right] = [Object.entries(a), Object.entries(b)];
  return left.length === right.length && left.every(([name, value]) => sameThing(value, b[name as keyof typeof b]));
}
