import { randomUUID } from "node:crypto";
import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { newEvent } from "@/core/api";
import { runId } from "@/core/id";
import type { Step } from "@/core/macro";
import {
  changeTask,
  createEvent,
  createTask,
  deleteCalendar,
  dryRun,
  exportTasks,
  importIcs,
  listCalendars,
  listTasks,
  offerTimes,
  openTasksOf,
  readLedger,
  runMacro,
  takeBack,
} from "@/server/act";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** Planning from mail against PostgreSQL: what steps put into tasks and calendars, what is free, and what narrowings know. */

let fresh: Fresh;
let messages: number[];

const run = (ids: readonly number[], ...steps: Step[]) =>
  runMacro(fresh.context, {
    id: runId(randomUUID()),
    macro: { name: "Plan", steps },
    target: { ids: [...ids] },
    answers: {},
    at: "2026-11-27T11:00:00Z",
  });
/** All that is planned, by what it is about, as it is stored. */
const planned = () => fresh.db.sql`
  select m.subject, e.value - 'uid' as value, e.starts::text, t.title as task from event e
    left join message m on m.person = e.person and m.id = e.message
    left join task t on t.person = e.person and t.id = e.task order by e.id`;
const undo = async () => {
  const [entry] = await readLedger(fresh.context, { limit: 1 });
  return takeBack(fresh.context, "undo", runId(entry!.id));
};

beforeAll(async () => {
  fresh = await freshDatabase();
  messages = await fillWithMessages(fresh, 4);
});
afterEach(async () => {
  await fresh.db.sql`delete from event`;
  await fresh.db.sql`delete from task`;
});
afterAll(() => fresh.drop());

describe("steps that plan", () => {
  test("block time for each message, for the task beside it, and all of it is taken back in one", async () => {
    const [first, second] = messages;
    await run(
      [first!, second!],
      { do: "make task", title: "Ring", due: "2026-12-04 17:00", pressing: true, repeat: "2 week" },
      { do: "block time", at: "2026-12-01 9:00", minutes: 45 },
    );
    const [{ zone }] = (await fresh.db.sql<{ zone: string }[]>`select zone from person`) as unknown as [
      { zone: string },
    ];
    expect(await planned()).toMatchObject(
      [first, second].map((id) => ({
        subject: `number ${id}`,
        task: "Ring",
        value: { start: "2026-12-01T09:00", length: 2700, zone, busy: true, rule: null, title: `number ${id}` },
      })),
    );
    expect(await listTasks(fresh.context)).toMatchObject([
      { title: "Ring", pressing: true, repeat: "2 week", message: first },
      { title: "Ring", message: second },
    ]);
    const before = await planned();
    await undo();
    expect([await planned(), await listTasks(fresh.context)]).toEqual([[], []]);
    const [entry] = await readLedger(fresh.context, { limit: 2 });
    await takeBack(fresh.context, "redo", runId(entry!.of!));
    expect(await planned()).toEqual(before);
  });

  test("an event is made where the words of the message say when, and asked about where they do not", async () => {
    const [first, second] = messages;
    // What has passed is no time to come to, whenever this is run.
    const year = new Date().getUTCFullYear() + 1;
    const source = `Subject: x\r\n\r\nCome on 11 December ${year}, 14:30 to 16:00.`;
    await fresh.db.sql`
      update content c set raw = convert_to(${source}, 'UTF8') from message m where m.content = c.id and m.id = ${first!}`;
    await run([first!], { do: "make event" });
    expect(await planned()).toMatchObject([{ value: { start: `${year}-12-11T14:30`, length: 5400 } }]);
    const asked = await run([second!], { do: "make event" }, { do: "archive" });
    expect([asked.entry, asked.asks.map(({ id }) => id)]).toEqual([null, [`1.at@${second}`]]);
    expect(await planned()).toHaveLength(1);
    const dry = await dryRun(fresh.context, {
      id: runId(randomUUID()),
      macro: { name: "Plan", steps: [{ do: "make event" }] },
      target: { ids: [first!] },
      answers: {},
    });
    expect(JSON.stringify(dry)).toContain("in the calendar: ");
  });

  test("without a calendar nothing of the macro is done, and it is said what to do", async () => {
    const [own] = await listCalendars(fresh.context);
    await deleteCalendar(fresh.context, own!.id);
    const doing = run([messages[0]!], { do: "block time", at: "2026-12-01 9:00", minutes: 30 }, { do: "archive" });
    await expect(doing).rejects.toMatchObject({ status: 422, title: "There is no calendar" });
    await undo();
    expect(await listCalendars(fresh.context)).toMatchObject([{ name: own!.name }]);
  });
});

test("free times are offered one a day from tomorrow on, within the working hours and beside what takes time", async () => {
  // A Friday, noon in Zurich.
  const now = new Date("2026-11-27T11:00:00Z");
  const add = (parts: object) =>
    createEvent(fresh.context, newEvent.parse({ title: "x", zone: "Europe/Zurich", length: 3600, ...parts }));
  await add({ start: "2026-11-30T09:00", length: 7200 });
  await add({ start: "2026-12-01", length: 86_400, zone: "" });
  // What takes no time is in nobody's way.
  await add({ start: "2026-12-02T09:00", busy: false });
  const offered = async (minutes: number, count: number) =>
    (await offerTimes({ ...fresh.context, zone: "Europe/Zurich" }, minutes, count, now)).map(({ text }) => text);
  expect(await offered(60, 3)).toEqual([
    "Monday 30 November, 11:00 to 12:00, Zurich time",
    "Wednesday 2 December, 09:00 to 10:00, Zurich time",
    "Thursday 3 December, 09:00 to 10:00, Zurich time",
  ]);
  expect(await offered(420, 2)).toEqual([
    "Wednesday 2 December, 09:00 to 16:00, Zurich time",
    "Thursday 3 December, 09:00 to 16:00, Zurich time",
  ]);
  expect(await offered(541, 1)).toEqual([]);
});

test("open tasks are known by their messages, all of them; as to-dos they come back the same", async () => {
  const [first, second] = messages;
  const make = (title: string, message: number | null, due: string | null) =>
    createTask(fresh.context, {
      ...{ title, message, due, estimate: null, pressing: title === "Ropes", waiting: false, repeat: null },
    });
  await make("Ropes", first!, "2026-12-01T08:00:00.000Z");
  await make("Nails", first!, null);
  await make("Tea", null, null);
  const { id } = await make("Wax", second!, null);
  await changeTask(fresh.context, id, { done: true });
  const open = [...(await openTasksOf(fresh.context))];
  expect(open).toEqual([[first, expect.arrayContaining([Date.parse("2026-12-01T08:00:00Z"), NaN])]]);
  const text = await exportTasks(fresh.context);
  expect(text.match(/^STATUS:COMPLETED\r?$/gm)).toHaveLength(1);
  const before = (await listTasks(fresh.context)).map(({ title, due, done, pressing }) => [title, due, done, pressing]);
  await fresh.db.sql`delete from task`;
  const [own] = await listCalendars(fresh.context);
  expect(await importIcs(fresh.context, own!.id, text)).toMatchObject({ tasks: 4, problems: [] });
  const after = (await listTasks(fresh.context)).map(({ title, due, done, pressing }) => [title, due, done, pressing]);
  expect(after).toEqual(before);
});
