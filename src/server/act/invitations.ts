import type { z } from "zod";
import type { EventShape, InvitationShape, invitationAnswer, inviteRequest, tellRequest } from "@/core/api";
import {
  answered,
  isDay,
  kindOf,
  occurrences,
  ownReply,
  readWall,
  REPLY_WORDS,
  replyEvent,
  spanAt,
  stillStands,
  withReply,
  type Invited,
} from "@/core/calendar";
import { readIcs, writeIcs } from "@/core/calendar/ics";
import { changeOf, sameThing, type CalendarEvent, type ReplyState, type ThingEdit } from "@/core/change";
import { messageId } from "@/core/id";
import { docOfText, isAddress } from "@/core/letter";
import type { Queryable } from "../db";
import { calendarType, identityFor, readIdentities } from "../letters";
import { inTurn, notFound, Refusal, sendAtOnce } from "../run";
import { ownAddresses, reserve } from "../store";
import { readAgenda } from "./agenda";
import { writeByHand } from "./by-hand";
import { eventById } from "./calendar-events";
import { firstCalendar } from "./calendars";
import type { Context } from "./context";
import { readMessageCalendar } from "./messages";

/** Invitations that came by mail, answered; and one's own, sent. */

interface Known {
  readonly id: number;
  readonly value: CalendarEvent;
}

async function knownAs(sql: Queryable, { person }: Context, { uid, instead }: Invited): Promise<Known | null> {
  const [row] = await sql<Known[]>`
    select id, value from event
    where person = ${person} and uid = ${uid} and instead is not distinct from ${instead} order by id limit 1`;
  return row ?? null;
}

/** @throws Refusal (409) where an event is not what was looked at: two answers at once are one */
async function mustStand(sql: Queryable, context: Context, known: Known | null, wanted: Invited): Promise<void> {
  const [same] =
    known === null
      ? []
      : await sql<Known[]>`select id, value from event where person = ${context.person} and id = ${known.id}`;
  const stands = known === null ? (await knownAs(sql, context, wanted)) === null : sameThing(same?.value, known.value);
  if (!stands) throw new Refusal(409, "Changed meanwhile", "The event is not what it was: look at it once more.");
}

/** What a message's calendar is about: its first event, with what could not be read. */
async function read(context: Context, message: number) {
  const source = await readMessageCalendar(context, message);
  if (source === null) return null;
  const { method, events, problems } = readIcs(source, context.zone);
  const invited = events[0]?.event;
  if (!invited) return null;
  const known = await knownAs(context.db.sql, context, invited);
  const kind = kindOf(method, invited, known?.value ?? null);
  return kind && { kind, invited, known, problems: problems.map(({ line, text }) => `line ${line}: ${text}`) };
}

const iso = (ms: number): string => new Date(ms).toISOString();

/** The invitation that a message carries; null where it carries none. */
export async function readInvitation(context: Context, message: number): Promise<InvitationShape | null> {
  const found = await read(context, message);
  if (!found) return null;
  const { kind, invited, known, problems } = found;
  const { db, person, zone } = context;
  const own = await ownAddresses(db.sql, person);
  const event: CalendarEvent = { ...invited, calendar: 0 };
  // Of what comes again, the first that is still to come is looked at.
  const now = Date.now();
  const next = occurrences(event, { from: now, to: now + 366 * 86_400_000 }, zone).list[0];
  const span = next ?? spanAt(event, readWall(event.start), zone);
  const taken = await readAgenda(context, { from: span.start, to: Math.max(span.end, span.start + 1) });
  const was =
    known && !stillStands(known.value, invited) ? spanAt(known.value, readWall(known.value.start), zone) : null;
  return {
    kind,
    title: invited.title,
    place: invited.place,
    rule: invited.rule,
    start: iso(span.start),
    end: iso(span.end),
    wholeDays: isDay(invited.start),
    organizer: invited.organizer,
    attendees: [...invited.attendees],
    reply: (known && ownReply(known.value, (one) => own.has(one))) ?? ownReply(invited, (one) => own.has(one)),
    event: known?.id ?? null,
    before: was && { start: iso(was.start), end: iso(was.end) },
    clashes: taken.occurrences.filter(({ event: id, busy }) => busy && id !== known?.id),
    problems: problems.slice(0, 5),
  };
}

interface Letter {
  readonly to: readonly { readonly name: string; readonly address: string }[];
  /** Which of one's own addresses it is from; the usual one where nothing is said. */
  readonly from?: string;
  readonly text: string;
  readonly method: "REQUEST" | "REPLY" | "CANCEL";
  readonly event: Invited;
}

interface Deed {
  /** What was done; with the event's title it is the letter's subject. */
  readonly name: string;
  readonly known: Known | null;
  readonly after: Invited;
  readonly letter?: Letter | undefined;
}

const FILES = { REPLY: "reply.ics", REQUEST: "invitation.ics", CANCEL: "invitation.ics" } as const;

/**
 * Stores what becomes of an event, and sends the letter that says so through the outbox: one transaction and one
 * entry, which taking back calls back whole.
 */
async function store(context: Context, message: number | null, { name, known, after, letter }: Deed): Promise<void> {
  await inTurn(context.db, context.person, async (tx, seq) => {
    await mustStand(tx, context, known, after);
    const calendar = known?.value.calendar ?? (await firstCalendar(tx, context));
    const id = known?.id ?? (await reserve(tx, "event", 1))[0]!;
    const edit: ThingEdit = {
      kind: "event",
      key: String(id),
      about: message === null ? null : messageId(message),
      before: known?.value ?? null,
      // What only this app knows of it stays.
      after: { ...after, calendar, task: known?.value.task ?? null, block: known?.value.block ?? null },
    };
    const about = after.title;
    if (!letter)
      return writeByHand(tx, context, seq, changeOf([], [edit]), { name, about, messages: message === null ? 0 : 1 });
    const { to, from, text, method, event } = letter;
    const ics = writeIcs({ events: [{ ...event, calendar: 0 }], method }, Date.now());
    const written = {
      kind: "new",
      answers: null,
      to,
      subject: `${name}: ${about}`,
      body: docOfText(text),
      files: [{ name: FILES[method], type: calendarType(method), data: Buffer.from(ics) }],
      ...(from === undefined ? {} : { via: [from] }),
    } as const;
    await sendAtOnce(tx, context, seq, written, "person", { things: [edit], name, about });
  });
}

const WORDS: Record<Exclude<ReplyState, "needs-action">, string> = {
  accepted: "I am coming",
  tentative: "I may come",
  declined: "I am not coming",
};

/** Answers an invitation, or takes over what a message says about an event. */
export async function answerInvitation(
  context: Context,
  message: number,
  { do: deed }: z.infer<typeof invitationAnswer>,
): Promise<InvitationShape | null> {
  const found = await read(context, message);
  if (!found) throw notFound("invitation", message);
  const { kind, invited, known } = found;
  if (kind === "old")
    throw new Refusal(409, "Old by now", "A newer word about it came already: look at the newest message about it.");
  if (deed === "remove" || deed === "note" || deed === "take") {
    if (kind !== ASKED_BY[deed]) throw new Refusal(422, "Not what it says", "The message says something else.");
    if (!known) throw new Refusal(409, "Not in a calendar", "There is nothing here that it could change.");
    const after =
      deed === "remove"
        ? { ...known.value, state: "cancelled" as const, sequence: invited.sequence }
        : deed === "take"
          ? {
              ...known.value,
              start: invited.start,
              length: invited.length,
              zone: invited.zone,
              sequence: known.value.sequence + 1,
            }
          : withReply(known.value, invited);
    if (after) await store(context, message, { name: DEEDS[deed], known, after });
    return readInvitation(context, message);
  }
  if (kind !== "request" && kind !== "update")
    throw new Refusal(422, "Nothing is asked", "This message asks nothing: it says what somebody else has decided.");
  const own = await whoAnswers(context, invited);
  // The same answer twice is one letter.
  const before = known && stillStands(known.value, invited) && known.value.sequence === invited.sequence;
  if (before && ownReply(known.value, (one) => one === own.address) === deed) return readInvitation(context, message);
  const letter: Letter | undefined =
    isAddress(invited.organizer) && invited.organizer !== own.address
      ? {
          to: [{ name: "", address: invited.organizer }],
          from: own.address,
          text: `${WORDS[deed]}: ${invited.title}.`,
          method: "REPLY",
          event: replyEvent(invited, deed, own),
        }
      : undefined;
  const after = answered(invited, deed, own);
  await store(context, message, { name: REPLY_WORDS[deed], known, after, letter });
  return readInvitation(context, message);
}

const ASKED_BY = { remove: "cancel", note: "reply", take: "counter" } as const;
const DEEDS = { remove: "Called off", note: "Answer noted", take: "Other time taken" } as const;

/** Which of one's own addresses was asked; the usual one where none was. */
async function whoAnswers({ db, person }: Context, invited: Invited): Promise<{ name: string; address: string }> {
  const asked = invited.attendees.map(({ address }) => address);
  const { name, address } = identityFor(await readIdentities(db.sql, person), asked);
  const own = await ownAddresses(db.sql, person);
  return { name, address: asked.find((one) => own.has(one)) ?? address.toLowerCase() };
}

/** An event that one asks to oneself, or may. @throws Refusal (422) for somebody else's */
async function ownEvent(
  context: Context,
  id: number,
): Promise<{ message: number | null; before: CalendarEvent; organizer: string }> {
  const { message, id: _, ...before } = await eventById(context, id);
  const [identity] = await readIdentities(context.db.sql, context.person);
  const organizer = before.organizer || identity!.address.toLowerCase();
  if (!(await ownAddresses(context.db.sql, context.person)).has(organizer))
    throw new Refusal(422, "Not yours", "Somebody else asks to this event: only they can ask people, or tell them.");
  return { message, before, organizer };
}

/** Tells those who were asked how an event is now, or that it is called off: it stays, and takes no time any more. */
export async function tellPeople(
  context: Context,
  id: number,
  { what }: z.infer<typeof tellRequest>,
): Promise<EventShape> {
  const { message, before, organizer } = await ownEvent(context, id);
  const own = await ownAddresses(context.db.sql, context.person);
  const others = before.attendees.filter(({ address }) => !own.has(address));
  if (others.length === 0) throw new Refusal(422, "Nobody was asked", "There is nobody to tell of it.");
  const isOff = what === "off";
  if (isOff && before.state === "cancelled")
    throw new Refusal(409, "Called off already", "Those who were asked have been told.");
  const after: CalendarEvent = {
    ...before,
    organizer,
    sequence: before.sequence + 1,
    ...(isOff ? { state: "cancelled" as const } : {}),
  };
  const name = isOff ? "Called off" : "Changed";
  const text = isOff
    ? `This does not take place: ${before.title}.`
    : `This has changed: ${before.title}.${before.place ? ` It is at ${before.place}.` : ""}`;
  const letter: Letter = { to: others, text, method: isOff ? "CANCEL" : "REQUEST", event: after };
  await store(context, message, { name, known: { id, value: before }, after, letter });
  return eventById(context, id);
}

/** Asks people to an event of one's own: they stand in it, and each gets an invitation by mail. @throws Refusal (409) */
export async function invite(
  context: Context,
  id: number,
  { people }: z.infer<typeof inviteRequest>,
): Promise<EventShape> {
  const { message, before, organizer } = await ownEvent(context, id);
  const asked = new Set(before.attendees.map(({ address }) => address));
  const fresh = people.filter(({ address }) => !asked.has(address) && asked.add(address));
  if (fresh.length === 0)
    throw new Refusal(
      409,
      "Asked already",
      "They have been asked. Where something is different now, tell them how it is.",
    );
  const after: CalendarEvent = {
    ...before,
    organizer,
    sequence: before.attendees.length > 0 ? before.sequence + 1 : before.sequence,
    attendees: [...before.attendees, ...fresh],
  };
  const text = `You are invited: ${before.title}.${before.place ? ` It is at ${before.place}.` : ""}`;
  const letter: Letter = { to: after.attendees, text, method: "REQUEST", event: after };
  const name = "Invitation";
  await store(context, message, { name, known: { id, value: before }, after, letter });
  return eventById(context, id);
}
