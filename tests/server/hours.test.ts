import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { runId } from "@/core/id";
import type { Week } from "@/core/when";
import {
  changeHours,
  createHours,
  createMacro,
  createRule,
  deleteHours,
  deleteRule,
  letIn,
  listHours,
  readLedger,
  takeBack,
} from "@/server/act";
import { wakeDue } from "@/server/jobs";
import { freshDatabase, type Fresh } from "./database";
import { serviceOf } from "./service";

/** Mail that waits for its hours. */

let fresh: Fresh;
let arrives: Awaited<ReturnType<typeof serviceOf>>["arrives"];
beforeAll(async () => {
  fresh = await freshDatabase();
  ({ arrives } = await serviceOf(fresh));
});
afterAll(() => fresh.drop());
afterEach(async () => {
  for (const { id } of (await listHours(fresh.context)).hours) await deleteHours(fresh.context, id);
});

const HOUR_MS = 3_600_000;
/** Fixed, since the hour may change while the tests run. */
const START_MS = Date.now();
const ALWAYS: Week = Array.from({ length: 7 }, (_, day) => ({ day, from: 0, to: 1440 }));
/** A stretch of an hour that begins so many hours from the start, by the clock in Zurich: the platform tells its day and hour. */
function stretchIn(hours: number) {
  const at = new Date(START_MS + hours * HOUR_MS);
  const parts = new Intl.DateTimeFormat("en-GB", {
    timeZone: "Europe/Zurich",
    weekday: "short",
    hour: "2-digit",
    hourCycle: "h23",
  }).formatToParts(at);
  const of = (type: string) => parts.find((part) => part.type === type)!.value;
  const from = Number(of("hour")) * 60;
  return { day: ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"].indexOf(of("weekday")), from, to: from + 60 };
}
const opening = (hours: number) => new Date(Math.floor((START_MS + hours * HOUR_MS) / HOUR_MS) * HOUR_MS).toISOString();
const make = (week: Week, more: { narrow?: string; through?: string | null; on?: boolean } = {}) =>
  createHours(fresh.context, { narrow: "", through: null, on: true, week: [...week], ...more });
const from = (address: string) => arrives(`X <${address}>`, "x");
const stateOf = async (id: number) => {
  const [row] = await fresh.db.sql<{ until: Date | string | null; back: unknown }[]>`
    select defer_until as until, back_since as back from message_state
    where person = ${fresh.context.person} and message = ${id}`;
  return { until: row!.until === null ? null : new Date(row!.until).toISOString(), back: row!.back };
};
const until = async (id: number) => (await stateOf(id)).until;

describe("outside its hours", () => {
  test("mail waits, comes in once they begin, as new mail, once, and by the clock", async () => {
    await make([stretchIn(3)]);
    const ids = [await from("a@post.example"), await from("b@post.example")];
    expect(await Promise.all(ids.map(until))).toEqual([opening(3), opening(3)]);
    expect(await listHours(fresh.context)).toMatchObject({ waiting: 2, opens: opening(3) });
    const [entry] = await readLedger(fresh.context, { limit: 1 });
    expect(entry).toMatchObject({ actor: "rule", cause: "hours", messages: 1 });
    const due = new Date(Date.parse(opening(3)) + 1000);
    expect(await wakeDue(fresh.db, new Date(due.getTime() - 2000))).toBe(0);
    const counts = await Promise.all([wakeDue(fresh.db, due), wakeDue(fresh.db, due)]);
    expect(counts[0] + counts[1]).toBe(2);
    for (const id of ids) expect(await stateOf(id)).toEqual({ until: null, back: null });
    expect(await listHours(fresh.context)).toMatchObject({ waiting: 0, opens: null });
    const [last] = await readLedger(fresh.context, { limit: 1 });
    expect(last).toMatchObject({ actor: "clock", cause: "hours", messages: 2 });
  });

  test("is let in by an exception, by an open hour, when they are off, and where they are for other mail", async () => {
    const { id } = await make([stretchIn(3)], { narrow: "from~post", through: "from=boss@post.example" });
    expect(await until(await from("boss@post.example"))).toBeNull();
    expect(await until(await from("x@tarn.example"))).toBeNull();
    expect(await until(await from("x@post.example"))).toBe(opening(3));
    expect(await until(await arrives("Me <bookings@larchhuts.example>", "own"))).toBeNull();
    await changeHours(fresh.context, id, { on: false });
    expect(await until(await from("x@post.example"))).toBeNull();
    await changeHours(fresh.context, id, { on: true, week: [...ALWAYS] });
    expect(await until(await from("x@post.example"))).toBeNull();
  });

  test("of two that mean it waits until both are open; weeks that share no time let it in", async () => {
    await make([stretchIn(2), stretchIn(4)]);
    const { id } = await make([stretchIn(3), stretchIn(4)], { narrow: "from~post" });
    expect(await until(await from("x@post.example"))).toBe(opening(4));
    await changeHours(fresh.context, id, { week: [stretchIn(5)] });
    expect(await until(await from("x@post.example"))).toBeNull();
  });

  test("waits by the hours there are now, and comes in when they are deleted, and waits again when they come back", async () => {
    const { id } = await make([stretchIn(3)]);
    const message = await from("x@post.example");
    await changeHours(fresh.context, id, { week: [stretchIn(5)] });
    expect(await until(message)).toBe(opening(5));
    await changeHours(fresh.context, id, { through: "from~post" });
    expect(await until(message)).toBeNull();
    const second = await from("x@tarn.example");
    expect(await until(second)).toBe(opening(5));
    await deleteHours(fresh.context, id);
    expect(await until(second)).toBeNull();
    await changeHours(fresh.context, id, { deleted: false });
    expect((await listHours(fresh.context)).hours).toEqual([
      { id, narrow: "", through: "from~post", week: [stretchIn(5)], on: true },
    ]);
    expect(await until(await from("x@tarn.example"))).toBe(opening(5));
  });

  test("all of it is let in by the person, and waits on when that is taken back", async () => {
    await make([stretchIn(3)]);
    const [a, b] = [await from("a@post.example"), await from("b@post.example")];
    expect(await letIn(fresh.context)).toEqual({ messages: 2 });
    expect(await letIn(fresh.context)).toEqual({ messages: 0 });
    expect([await until(a), await until(b)]).toEqual([null, null]);
    const [entry] = await readLedger(fresh.context, { limit: 1 });
    expect(entry).toMatchObject({ actor: "person", messages: 2 });
    await takeBack(fresh.context, "undo", runId(entry!.id));
    expect([await until(a), await until(b)]).toEqual([opening(3), opening(3)]);
    expect(await listHours(fresh.context)).toMatchObject({ waiting: 2 });
    // It comes in as new mail all the same.
    await wakeDue(fresh.db, new Date(Date.parse(opening(3)) + 1000));
    expect(await stateOf(a)).toEqual({ until: null, back: null });
  });

  test("leaves alone what a rule has deferred or filed", async () => {
    await make([stretchIn(3)]);
    const macro = await createMacro(fresh.context, {
      name: "Later",
      colour: "spruce",
      steps: [{ do: "defer", until: "+90d" }],
      settings: {},
    } as never);
    const file = await createMacro(fresh.context, {
      name: "Weather",
      colour: "spruce",
      steps: [{ do: "move", to: "Weather" }],
      settings: {},
    } as never);
    const rules = [
      await createRule(fresh.context, { narrow: "from~later", macro: macro.id, on: true, stop: false }),
      await createRule(fresh.context, { narrow: "from~weather", macro: file.id, on: true, stop: false }),
    ];
    const late = await until(await from("x@later.example"));
    expect(Date.parse(late!)).toBeGreaterThan(Date.now() + 80 * 24 * HOUR_MS);
    expect(await until(await from("x@weather.example"))).toBeNull();
    expect((await listHours(fresh.context)).waiting).toBe(0);
    for (const { id } of rules) await deleteRule(fresh.context, id);
  });
});

test("conditions that cannot be read are refused, and hours that are not there", async () => {
  await expect(make([], { narrow: "from=" })).rejects.toMatchObject({ status: 400 });
  await expect(make([], { through: "((" })).rejects.toMatchObject({ status: 400 });
  await expect(changeHours(fresh.context, 999, { on: false })).rejects.toMatchObject({ status: 404 });
  await expect(deleteHours(fresh.context, 999)).rejects.toMatchObject({ status: 404 });
});
