import * as shape from "@/core/api";
import { crud } from "./crud";
import type { Operation } from "./operation";

const RANGE = { from: "ISO 8601", to: "ISO 8601" };

/** What is planned. */
export const AGENDA: readonly Operation[] = [
  ...crud("/calendars", "calendar", shape.calendarShape, shape.newCalendar, shape.calendarPatch, {
    summary: "Delete a calendar with all that is in it: an entry of the ledger, which can be undone",
    status: 204,
  }),
  {
    method: "post",
    path: "/calendars/{id}/address",
    summary: "A secret address under which other programs read a calendar; the one before is no more",
    answer: shape.calendarShape,
  },
  {
    method: "delete",
    path: "/calendars/{id}/address",
    summary: "Take the address of a calendar away",
    answer: shape.calendarShape,
  },
  { method: "get", path: "/calendars/{id}/ics", summary: "A calendar as iCalendar (RFC 5545)", media: "text/calendar" },
  {
    method: "post",
    path: "/calendars/{id}/ics",
    summary: "Take an iCalendar in, as far as it can be read: the body is the file",
    answer: shape.icsTaken,
  },
  { method: "get", path: "/tasks/ics", summary: "All tasks as to-dos of iCalendar (RFC 5545)", media: "text/calendar" },
  {
    method: "get",
    path: "/calendar-addresses/{secret}",
    summary: "The calendar whose address it is, as iCalendar",
    open: true,
    media: "text/calendar",
  },
  {
    method: "post",
    path: "/events",
    summary: "A new event in a calendar",
    body: shape.newEvent,
    answer: shape.eventShape,
    status: 201,
  },
  {
    method: "patch",
    path: "/events/{id}",
    summary: "Change an event, or of what comes again one, that and all that follow, or all",
    body: shape.eventPatch,
    answer: shape.eventShape.array(),
  },
  {
    method: "delete",
    path: "/events/{id}",
    summary: "Delete an event, or of what comes again one, that and all that follow, or all",
    body: shape.eventScope,
    status: 204,
  },
  {
    method: "get",
    path: "/agenda",
    summary: "What takes place in a range, each time by itself, and what is due",
    query: RANGE,
    answer: shape.agendaShape,
  },
  { method: "get", path: "/agenda/fit", summary: "Where all open tasks would go in free time", answer: shape.fitShape },
  {
    method: "post",
    path: "/agenda/fit",
    summary: "Give tasks their times, as proposed: one entry of the ledger",
    body: shape.fitRequest,
    status: 204,
  },
  {
    method: "get",
    path: "/agenda/offers",
    summary: "Free times in one's working hours to offer somebody: the first of each of the next days",
    query: { minutes: "how long, 60 where nothing is said", count: "how many, 3 where nothing is said" },
    answer: shape.offersShape,
  },
  {
    method: "post",
    path: "/tasks/{id}/time",
    summary: "Give a task time: then, or the first that is free before it is due",
    body: shape.taskTime,
    answer: shape.taskTimeAnswer,
    status: 201,
  },
  {
    method: "post",
    path: "/events/{id}/invite",
    summary: "Ask people to an event: each gets an invitation by mail",
    body: shape.inviteRequest,
    answer: shape.eventShape,
  },
  {
    method: "post",
    path: "/events/{id}/tell",
    summary: "Tell those who were asked to an event how it is now, or that it is called off",
    body: shape.tellRequest,
    answer: shape.eventShape,
  },
  {
    method: "get",
    path: "/messages/{id}/invitation",
    summary: "The invitation that a message carries, with what else takes that time; null for none",
    answer: shape.invitationShape.nullable(),
  },
  {
    method: "post",
    path: "/messages/{id}/invitation",
    summary: "Answer an invitation: it is in the calendar, and the answer goes by mail",
    body: shape.invitationAnswer,
    answer: shape.invitationShape.nullable(),
  },
];
