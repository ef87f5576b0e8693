import type { Attendee, CalendarEvent, ReplyState } from "../change";

/**
 * Invitations as they go by mail (RFC 5546, 6047): who asks whom to what, and what of it is new. Which event is meant
 * is said by UID and RECURRENCE-ID, which of two is newer by SEQUENCE.
 */

export type Invited = Omit<CalendarEvent, "calendar">;

/** What a message asks or says, as it is to be shown. */
export const INVITATION_KINDS = ["request", "update", "old", "cancel", "reply", "counter"] as const;
export type InvitationKind = (typeof INVITATION_KINDS)[number];

/** @param method of the calendar @param known the event as it is here, if it is */
export function kindOf(method: string | null, invited: Invited, known: CalendarEvent | null): InvitationKind | null {
  if (known && invited.sequence < known.sequence) return "old";
  switch (method) {
    case "REQUEST":
    case "PUBLISH":
    case null:
      return known ? "update" : "request";
    case "CANCEL":
      return "cancel";
    case "REPLY":
      return "reply";
    case "COUNTER":
      return "counter";
    default:
      return null;
  }
}

const replyOf = (attendees: readonly Attendee[], isOwn: (address: string) => boolean): Attendee | undefined =>
  attendees.find(({ address }) => isOwn(address));

/** What was answered already; null where one is not asked at all. */
export const ownReply = (event: Invited, isOwn: (address: string) => boolean): ReplyState | null =>
  replyOf(event.attendees, isOwn)?.reply ?? null;

/** Whether an answer given before still stands: not once the time was changed. */
export const stillStands = (before: CalendarEvent, now: Invited): boolean =>
  before.start === now.start && before.length === now.length && before.zone === now.zone && before.rule === now.rule;

/** An invitation as it stands in one's own calendar once it is answered. */
export function answered(invited: Invited, reply: ReplyState, own: Omit<Attendee, "reply">): Invited {
  const others = invited.attendees.filter(({ address }) => address !== own.address);
  const name = invited.attendees.find(({ address }) => address === own.address)?.name || own.name;
  return {
    ...invited,
    // What one does not go to takes no time.
    busy: reply === "declined" ? false : invited.busy,
    state: invited.state === "cancelled" ? "cancelled" : reply === "tentative" ? "tentative" : "confirmed",
    attendees: [...others, { address: own.address, name, reply }],
  };
}

/** What goes back to who asked: the one who answers, and nobody else. */
export function replyEvent(invited: Invited, reply: ReplyState, own: Omit<Attendee, "reply">): Invited {
  return { ...invited, note: "", remind: null, attendees: [{ ...own, reply }] };
}

/** One's own event with what somebody has answered. @returns null where they were not asked, or say nothing new */
export function withReply(event: CalendarEvent, said: Invited): CalendarEvent | null {
  const replies = new Map(said.attendees.map(({ address, reply }) => [address, reply]));
  const attendees = event.attendees.map((one) => ({ ...one, reply: replies.get(one.address) ?? one.reply }));
  return attendees.some(({ reply }, i) => reply !== event.attendees[i]!.reply) ? { ...event, attendees } : null;
}

export const REPLY_WORDS: Record<ReplyState, string> = {
  "needs-action": "Not answered",
  accepted: "Accepted",
  tentative: "Perhaps",
  declined: "Declined",
};
