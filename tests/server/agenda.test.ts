import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { newEvent } from "@/core/api";
import { runId } from "@/core/id";
import {
  changeCalendar,
  changeEvent,
  changeTask,
  createCalendar,
  createEvent,
  createTask,
  deleteCalendar,
  deleteEvent,
  eventsIn,
  exportIcs,
  giveTime,
  importIcs,
  listCalendars,
  proposeFit,
  readAgenda,
  readLedger,
  shareCalendar,
  sharedIcs,
  takeBack,
  unshareCalendar,
  writeFit,
} from "@/server/act";
import { freshDatabase, type Fresh } from "./database";

/** Calendars against PostgreSQL: what is in them, when it takes place, and each change taken back exactly. */

let fresh: Fresh;
let own: number;
const YEAR = { from: Date.parse("2026-01-01T00:00Z"), to: Date.parse("2027-12-31T00:00Z") };
const WEEK = { from: Date.parse("2026-11-30T00:00Z"), to: Date.parse("2026-12-07T00:00Z") };

const event = (parts: Record<string, unknown> = {}) =>
  newEvent.parse({
    title: "Stove",
    start: "2026-12-01T10:00",
    length: 3600,
    zone: "Europe/Zurich",
    ...parts,
  });
const add = (parts?: Record<string, unknown>) => createEvent(fresh.context, event(parts));
const times = async (range = WEEK) =>
  (await readAgenda(fresh.context, range)).occurrences.map(({ start, title }) => `${start.slice(5, 16)} ${title}`);
/** Everything that is planned, as it is stored. */
const stored = () => fresh.db.sql`
  select id, calendar, uid, instead, task, message, starts::text, ends::text, value from event order by id`;
const calendars = async () =>
  (await listCalendars(fresh.context)).map(({ name, colour, events }) => ({ name, colour, events }));

async function backAndForth(deed: () => Promise<unknown>): Promise<void> {
  const look = async () => [await stored(), await calendars()];
  const before = await look();
  await deed();
  const after = await look();
  expect(after).not.toEqual(before);
  const [entry] = await readLedger(fresh.context, { limit: 1 });
  await takeBack(fresh.context, "undo", runId(entry!.id));
  expect(await look()).toEqual(before);
  await takeBack(fresh.context, "redo", runId(entry!.id));
  expect(await look()).toEqual(after);
}

beforeAll(async () => {
  fresh = await freshDatabase();
  own = (await listCalendars(fresh.context))[0]!.id;
});
afterEach(() => fresh.db.sql`delete from event`);
afterAll(() => fresh.drop());

describe("events", () => {
  test("a person begins with one calendar, and what is new goes there", async () => {
    expect(await calendars()).toEqual([{ name: "Own", colour: "spruce", events: 0 }]);
    await backAndForth(() => add());
    expect(await times()).toEqual(["12-01T09:00 Stove"]);
    expect(await add({ title: "Round", calendar: own })).toMatchObject({ calendar: own, title: "Round", busy: true });
    await expect(add({ calendar: 999 })).rejects.toMatchObject({ status: 404 });
  });

  test("one that comes again is moved, deleted and cut in two, and each is taken back", async () => {
    const series = await add({ rule: "FREQ=DAILY;COUNT=5" });
    const on = (day: number, hour = 9) => `12-0${day}T${String(hour).padStart(2, "0")}:00 Stove`;
    await backAndForth(() =>
      changeEvent(fresh.context, series.id, { scope: "one", at: "2026-12-03T10:00", start: "2026-12-03T15:00" }),
    );
    expect(await times()).toEqual([on(1), on(2), on(3, 14), on(4), on(5)]);
    await backAndForth(() => deleteEvent(fresh.context, series.id, { scope: "one", at: "2026-12-02T10:00" }));
    expect(await times()).toEqual([on(1), on(3, 14), on(4), on(5)]);
    await backAndForth(() =>
      changeEvent(fresh.context, series.id, { scope: "following", at: "2026-12-04T10:00", start: "2026-12-04T11:00" }),
    );
    expect(await times()).toEqual([on(1), on(3, 14), on(4, 10), on(5, 10)]);
    await backAndForth(() => deleteEvent(fresh.context, series.id, { scope: "all" }));
    expect(await times()).toEqual([on(4, 10), on(5, 10)]);
  });

  test("one of its times that is not there any more is refused", async () => {
    const series = await add({ rule: "FREQ=DAILY;COUNT=5" });
    await expect(
      changeEvent(fresh.context, series.id, { scope: "one", at: "2026-12-03T11:00", title: "x" }),
    ).rejects.toMatchObject({ status: 409 });
    expect(await times()).toHaveLength(5);
  });

  test("what is looked for by time is found wherever the person is, and however long ago it began", async () => {
    await add({ title: "Day", start: "2026-12-01", length: 86_400, zone: "" });
    await add({ title: "Long", start: "2026-11-20T10:00", length: 20 * 86_400 });
    await add({ title: "Old", start: "2019-01-01T10:00", rule: "FREQ=WEEKLY;BYDAY=TU" });
    await add({ title: "Over", start: "2019-01-01T10:00", rule: "FREQ=WEEKLY;COUNT=9" });
    const day = { from: Date.parse("2026-12-01T08:00Z"), to: Date.parse("2026-12-01T10:00Z") };
    expect((await times(day)).map((line) => line.split(" ")[1]).sort()).toEqual(["Day", "Long", "Old"]);
    expect((await eventsIn(fresh.context, day)).map(({ title }) => title).sort()).toEqual(["Day", "Long", "Old"]);
  });

  test("of a series that is shown, those that stand elsewhere come along, so that none is shown twice", async () => {
    const series = await add({ rule: "FREQ=WEEKLY" });
    await changeEvent(fresh.context, series.id, { scope: "one", at: "2026-12-08T10:00", start: "2027-03-01T10:00" });
    const week = { from: Date.parse("2026-12-07T00:00Z"), to: Date.parse("2026-12-14T00:00Z") };
    expect(await times(week)).toEqual([]);
    expect(await eventsIn(fresh.context, week)).toHaveLength(2);
  });
});

describe("calendars", () => {
  test("made, changed and deleted with all that is in them", async () => {
    await backAndForth(() => createCalendar(fresh.context, { name: "Huts", colour: "slate" }));
    const huts = (await listCalendars(fresh.context)).find(({ name }) => name === "Huts")!;
    await backAndForth(() => changeCalendar(fresh.context, huts.id, { name: "Rounds" }));
    await add({ calendar: huts.id });
    await add();
    await backAndForth(() => deleteCalendar(fresh.context, huts.id));
    expect(await calendars()).toEqual([{ name: "Own", colour: "spruce", events: 1 }]);
  });

  test("an address reads one calendar until it is taken away, or another is given", async () => {
    await add();
    const { address } = await shareCalendar(fresh.context, own);
    const secret = /^\/api\/v1\/calendar-addresses\/([\w-]{32})\.ics$/.exec(address!)![1]!;
    expect(await sharedIcs(fresh.db, secret)).toContain("SUMMARY:Stove");
    await shareCalendar(fresh.context, own);
    await expect(sharedIcs(fresh.db, secret)).rejects.toMatchObject({ status: 404 });
    expect((await unshareCalendar(fresh.context, own)).address).toBeNull();
  });
});

describe("work in free time", () => {
  test("a proposal is written as it was shown, in one entry, and then there is nothing to propose", async () => {
    const now = new Date("2026-11-30T07:00:00Z");
    const base = { due: null, estimate: 60, pressing: false, waiting: false, repeat: null, message: null };
    const late = await createTask(fresh.context, { ...base, title: "Late", due: "2026-11-29T10:00:00Z" });
    const soon = await createTask(fresh.context, { ...base, title: "Soon", due: "2026-11-30T12:00:00Z" });
    const any = await createTask(fresh.context, { ...base, title: "Any" });
    await add({ title: "Meeting", start: "2026-11-30T09:30" });
    const fit = await proposeFit(fresh.context, now);
    const at = (id: number) => fit.moves.find(({ task }) => task === id)!.after.map(({ start }) => start.slice(11, 16));
    expect([soon, late, any].map(({ id }) => at(id))).toEqual([["09:30"], ["10:30"], ["11:30"]]);
    expect(fit.proofs).toMatchObject([{ task: late.id, needs: 60, room: 0 }]);
    await backAndForth(() => writeFit(fresh.context, { moves: fit.moves }));
    expect(await proposeFit(fresh.context, now)).toMatchObject({ moves: [] });
    expect(await times()).toEqual(["11-30T08:30 Meeting", "11-30T09:30 Soon", "11-30T10:30 Late", "11-30T11:30 Any"]);
    // Something comes in between: what was there is moved, not made anew.
    await add({ title: "Call", start: "2026-11-30T12:45" });
    const again = await proposeFit(fresh.context, now);
    expect(again.moves).toMatchObject([{ task: any.id, before: [{ start: "2026-11-30T11:30:00.000Z" }] }]);
    await backAndForth(() => writeFit(fresh.context, { moves: again.moves }));
    expect((await times()).filter((line) => line.endsWith("Any"))).toEqual(["11-30T12:45 Any"]);
    // A proposal that is old by now is refused whole.
    await expect(writeFit(fresh.context, { moves: [{ ...again.moves[0]!, events: [999_999] }] })).rejects.toMatchObject(
      {
        status: 409,
      },
    );
    await changeTask(fresh.context, any.id, { done: true });
    const given = await proposeFit(fresh.context, now);
    expect(given.moves).toMatchObject([{ task: any.id, after: [] }]);
  });

  test("what is free is given once: by two windows at once, and by the same proposal twice", async () => {
    await fresh.db.sql`delete from task`;
    const now = new Date("2026-12-03T07:00:00Z");
    const base = { due: null, estimate: 60, pressing: false, waiting: false, repeat: null, message: null };
    const made = [];
    for (const title of ["Beds", "Doors", "Ropes"]) made.push(await createTask(fresh.context, { ...base, title }));
    const fit = await proposeFit(fresh.context, now);
    expect(fit.moves).toHaveLength(3);
    const apply = () => writeFit(fresh.context, { moves: fit.moves }, now);
    const outcomes = async (all: readonly Promise<unknown>[]) =>
      (await Promise.allSettled(all))
        .map((one) => (one.status === "fulfilled" ? 200 : (one.reason as { status: number }).status))
        .sort();
    expect(await outcomes([apply(), apply(), apply()])).toEqual([200, 409, 409]);
    const hours = ["12-03T08:00", "12-03T09:00", "12-03T10:00"];
    expect((await times()).map((line) => line.slice(0, 11))).toEqual(hours);
    expect(await outcomes(made.map(({ id }) => giveTime(fresh.context, id, {}, now)))).toEqual([200, 200, 200]);
    // Each an hour of its own, behind those there were: it is nine by the clock when it is eight in Greenwich.
    expect((await times()).map((line) => line.slice(0, 11))).toEqual([
      ...hours,
      "12-03T11:00",
      "12-03T12:00",
      "12-03T13:00",
    ]);
  });

  test("one task takes the first time that holds it before it is due, or that which is said", async () => {
    const now = new Date("2026-12-03T15:30:00Z");
    const task = await createTask(fresh.context, {
      title: "Ropes",
      due: "2026-12-07T10:00:00Z",
      estimate: 90,
      pressing: false,
      waiting: false,
      repeat: null,
      message: null,
    });
    await backAndForth(() => giveTime(fresh.context, task.id, {}, now));
    expect(await times()).toEqual(["12-04T08:00 Ropes"]);
    const said = await giveTime(fresh.context, task.id, { start: "2026-12-05T20:00:00+01:00", minutes: 15 }, now);
    expect(said).toEqual({ start: "2026-12-05T19:00:00.000Z", end: "2026-12-05T19:15:00.000Z" });
  });
});

describe("calendars of other programs", () => {
  test("what is written is taken in the same, once", async () => {
    const series = await add({ rule: "FREQ=DAILY;COUNT=5", place: "Larch Saddle" });
    await changeEvent(fresh.context, series.id, { scope: "one", at: "2026-12-03T10:00", start: "2026-12-03T15:00" });
    await add({ title: "Day", start: "2026-12-02", length: 86_400, zone: "" });
    const text = await exportIcs(fresh.context, own, Date.parse("2026-11-27T00:00Z"));
    expect(await importIcs(fresh.context, own, text)).toEqual({ events: 0, same: 3, tasks: 0, problems: [], more: 0 });
    const other = await createCalendar(fresh.context, { name: "Copy", colour: "plum" });
    const before = await times(YEAR);
    await backAndForth(() => importIcs(fresh.context, other.id, text));
    expect(await times(YEAR)).toEqual(before.flatMap((line) => [line, line]));
  });

  test("newer ones change what is here, older ones do not, and what only we know of it stays", async () => {
    const made = await add({ block: "label=Reading" });
    const text = await exportIcs(fresh.context, own);
    const newer = text.replace("SUMMARY:Stove", "SUMMARY:Chimney").replace("SEQUENCE:0", "SEQUENCE:2");
    expect(await importIcs(fresh.context, own, newer)).toMatchObject({ events: 1, problems: [] });
    expect(await eventsIn(fresh.context, YEAR)).toMatchObject([
      { id: made.id, title: "Chimney", block: "label=Reading" },
    ]);
    const answer = await importIcs(fresh.context, own, text);
    expect(answer).toMatchObject({ events: 0, problems: [{ text: expect.stringContaining("older") }] });
    expect(await times()).toEqual(["12-01T09:00 Chimney"]);
  });

  test("what is broken comes in as far as it can, and to-dos are tasks, once", async () => {
    const text = [
      "BEGIN:VCALENDAR",
      "BEGIN:VEVENT",
      "UID:1",
      "DTSTART:20261201T100000Z",
      "SUMMARY:Here",
      "END:VEVENT",
      "BEGIN:VEVENT",
      "UID:2",
      "DTSTART:never",
      "END:VEVENT",
      "BEGIN:VTODO",
      "UID:3",
      "SUMMARY:Wax",
      "END:VTODO",
      "END:VCALENDAR",
    ].join("\n");
    const answer = await importIcs(fresh.context, own, text);
    expect(answer).toMatchObject({ events: 1, tasks: 1 });
    expect(answer.problems.map(({ line }) => line)).toEqual([7, 9]);
    expect(await importIcs(fresh.context, own, text)).toMatchObject({ events: 0, same: 1, tasks: 0 });
  });
});
