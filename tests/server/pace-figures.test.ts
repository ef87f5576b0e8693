import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { runId } from "@/core/id";
import { readDay } from "@/core/pace";
import {
  createMacro,
  paceCsv,
  readPace,
  readPaceMacros,
  readPaceSenders,
  readReview,
  runMacro,
  takeBack,
} from "@/server/act";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** What is told of what came and was decided: a world of which every figure can be counted by hand. */

let fresh: Fresh;
const macros: Record<string, number> = {};
const day = (text: string) => readDay(text)!;
const query = (from: string, to: string, more: object = {}) =>
  ({ from: day(from), to: day(to), by: "day", place: null, account: null, until: null, ...more }) as const;
/** By the person's clock, in November an hour before UTC. */
const at = (text: string) => new Date(`${text}:00+01:00`);

let ids: number[] = [];
async function decide(macro: string, messages: readonly number[], when: Date, by?: string): Promise<string> {
  const id = runId(randomUUID());
  await runMacro(fresh.context, { id, macro: macros[macro]!, target: { ids: messages }, by } as never);
  await fresh.db.sql`update ledger set at = ${when.toISOString()}::timestamptz where run = ${id}`;
  return id;
}

beforeAll(async () => {
  fresh = await freshDatabase();
  for (const [name, steps] of Object.entries({
    done: [{ do: "read" }, { do: "archive" }],
    weather: [{ do: "move", to: "Weather" }],
  }))
    macros[name] = (
      await createMacro(fresh.context, { name: `${name} it`, colour: "spruce", steps, settings: {} } as never)
    ).id;
  ids = await fillWithMessages(fresh, 40);
  // Ten a day from the 2nd, a Monday; each at nine by the person's clock.
  await fresh.db.sql`
    update message set date = timestamptz '2026-11-02 08:00Z' + ((id - ${ids[0]!}) / 10) * interval '1 day'`;
  await decide("done", ids.slice(0, 6), at("2026-11-02T15:00"), "key");
  await decide("done", ids.slice(10, 12), at("2026-11-04T09:00"), "swipe");
  await decide("weather", ids.slice(12, 13), at("2026-11-05T23:30"));
});
afterAll(() => fresh.drop());

describe("figures of a place", () => {
  test("tell what came and was decided, day by day, and what waited at the end of each", async () => {
    const told = await readPace(fresh.context, query("2026-11-02", "2026-11-06"), at("2026-11-06T12:00"));
    expect(told.flow.map(({ at: when, came, decided }) => `${when} ${came} ${decided}`)).toEqual([
      "2026-11-02 10 6",
      "2026-11-03 10 0",
      "2026-11-04 10 2",
      "2026-11-05 10 1",
      "2026-11-06 0 0",
    ]);
    expect(told.backlog.map(({ total }) => total)).toEqual([4, 14, 22, 31, 31]);
    // Of today, of this week.
    expect(told.backlog[2]!.layers).toEqual([10, 12, 0, 0, 0]);
    expect(told.place).toMatchObject({ name: "Inbox", open: 31 });
    expect(told.week.came[0]![9]).toBe(10);
    expect(told.week.decided[3]![23]).toBe(1);
    expect(told.since).toBe("2026-11-02");
    // Six waited six hours, two a day, one two days and more.
    expect(told.waits.count).toBe(9);
    expect(told.waits.median! / 3_600_000).toBeGreaterThan(5.5);
    expect(told.waits.median! / 3_600_000).toBeLessThan(6.6);
    expect(told.waits.most! / 3_600_000).toBeGreaterThan(24);
    expect(told.forecast).toBeNull();
  });

  test("by the hour and by the week they are the same messages", async () => {
    const hours = await readPace(fresh.context, query("2026-11-02", "2026-11-02", { by: "hour" }));
    expect(hours.flow).toHaveLength(24);
    expect(hours.flow.filter(({ came, decided }) => came + decided > 0)).toEqual([
      { at: "2026-11-02T09", came: 10, decided: 0, filed: 0 },
      { at: "2026-11-02T15", came: 0, decided: 6, filed: 0 },
    ]);
    const weeks = await readPace(fresh.context, query("2026-11-01", "2026-11-09", { by: "week" }));
    expect(weeks.flow.map(({ at: week, came, decided }) => [week, came, decided])).toEqual([
      ["2026-10-26", 0, 0],
      ["2026-11-02", 40, 9],
      ["2026-11-09", 0, 0],
    ]);
    await expect(readPace(fresh.context, query("2026-10-01", "2026-11-02", { by: "hour" }))).rejects.toThrow(/31 days/);
  });

  test("of another place, and of an account, they tell what is there", async () => {
    const { places } = await readPace(fresh.context, query("2026-11-02", "2026-11-06"));
    const weather = places.find(({ name }) => name === "Weather")!;
    expect(weather.open).toBe(1);
    const there = await readPace(fresh.context, query("2026-11-05", "2026-11-05", { place: weather.id }));
    expect(there.flow).toEqual([{ at: "2026-11-05", came: 1, decided: 0, filed: 0 }]);
    const none = await readPace(fresh.context, query("2026-11-02", "2026-11-06", { account: 77 }));
    expect(none.flow.reduce((sum, { came }) => sum + came, 0)).toBe(0);
    await expect(readPace(fresh.context, query("2026-11-02", "2026-11-06", { place: 9999 }))).rejects.toThrow();
  });

  test("a forecast is told from the days since it began, and says when nothing would be left", async () => {
    const told = await readPace(
      fresh.context,
      query("2026-11-02", "2026-11-20", { until: day("2026-11-30") }),
      at("2026-11-20T12:00"),
    );
    expect(told.forecast).toMatchObject({ days: 17, gain: (3 - 30) / 17, until: "2026-11-30" });
    expect(told.forecast!.empty.likely).toBeNull();
    // 31 wait and 30 in 17 days come: in ten days that is 31 / 10 + 30 / 17 a day.
    expect(told.forecast!.needed.likely).toBeCloseTo(3.1 + 30 / 17, 9);
  });
});

describe("who and what", () => {
  test("senders are told with what came of them, and how long theirs waited", async () => {
    const rows = await readPaceSenders(fresh.context, query("2026-11-02", "2026-11-06"));
    expect(rows.reduce((sum, { came }) => sum + came, 0)).toBe(40);
    expect(rows.reduce((sum, { decided }) => sum + decided, 0)).toBe(9);
    expect(rows.reduce((sum, { open }) => sum + open, 0)).toBe(31);
    const of = await fresh.db.sql<{ address: string; n: number; unread: number }[]>`
      select from_address as address, count(*)::int as n, count(*) filter (where bits & 1 = 0)::int as unread
      from message m join message_state s on s.message = m.id group by 1 order by 1`;
    expect(
      rows
        .map(({ source, came, unread }) => ({ address: source.slice(7), n: came, unread }))
        .sort((a, b) => (a.address < b.address ? -1 : 1)),
    ).toEqual(of.map((row) => ({ ...row })));
    // Over whole blocks of days, which are counted beforehand, it is the same mail; of no account there is none.
    const wide = await readPaceSenders(fresh.context, query("2026-07-01", "2027-02-20"));
    expect(wide).toEqual(rows);
    for (const [from, to, came] of [
      ["2026-11-03", "2027-03-01", 30],
      ["2026-06-01", "2026-11-04", 30],
    ] as const)
      expect((await readPaceSenders(fresh.context, query(from, to))).reduce((sum, one) => sum + one.came, 0)).toBe(
        came,
      );
    expect(await readPaceSenders(fresh.context, query("2026-07-01", "2027-02-20", { account: 77 }))).toEqual([]);
    expect(rows[0]!.narrow).toBe(`from=${rows[0]!.source.slice(7)}`);
  });

  test("macros are told with what they save, and taken back they count no more", async () => {
    const use = async () =>
      (await readPaceMacros(fresh.context, query("2026-11-02", "2026-11-06"))).map(
        ({ name, runs, messages, byKey, bySwipe, keys }) => [name, runs, messages, byKey, bySwipe, keys],
      );
    expect(await use()).toEqual([
      // Two presses by hand for each of eight, and two keys.
      ["done it", 2, 8, 1, 1, 14],
      ["weather it", 1, 1, 0, 0, 1],
    ]);
    const id = await decide("done", ids.slice(30, 35), at("2026-11-06T10:00"), "key");
    expect((await use())[0]!.slice(1, 4)).toEqual([3, 13, 2]);
    await takeBack(fresh.context, "undo", runId(id));
    expect((await use())[0]!.slice(1, 4)).toEqual([2, 8, 1]);
  });

  test("a week looked back on says what came, what was done and what nobody read", async () => {
    const told = await readReview(fresh.context, day("2026-11-04"), at("2026-11-20T12:00"));
    expect(told).toMatchObject({
      week: "2026-11-02",
      came: 40,
      decided: 9,
      filed: 0,
      before: { came: 0, decided: 0 },
      open: 31,
    });
    expect(told.saved.keys).toBe(15);
    // Nobody of them was written to.
    expect(told.neglected).toEqual([]);
    expect(told.unread.every(({ count }) => count >= 3)).toBe(true);
  });

  test("each is a table as well, in which no name is a formula", async () => {
    await fresh.db.sql`update message set from_name = '=1+1, "x"' where from_address = 's1@post.example'`;
    const csv = await paceCsv(fresh.context, "senders", query("2026-11-02", "2026-11-06"));
    const lines = csv.split("\r\n");
    expect(lines[0]).toBe("source,name,came,decided,waits,unread,median seconds,nine of ten seconds");
    expect(lines.find((line) => line.startsWith("sender s1@"))).toContain(`,"'=1+1, ""x""",`);
    expect((await paceCsv(fresh.context, "flow", query("2026-11-02", "2026-11-03"))).split("\r\n")).toEqual([
      "day,came,decided,filed",
      "2026-11-02,10,6,0",
      "2026-11-03,10,0,0",
      "",
    ]);
    expect(await paceCsv(fresh.context, "week", query("2026-11-02", "2026-11-08"))).toContain("Monday,15,0,6\r\n");
    expect(await paceCsv(fresh.context, "backlog", query("2026-11-02", "2026-11-02"))).toContain(
      "2026-11-02,4,4,0,0,0,0",
    );
    expect(await paceCsv(fresh.context, "macros", query("2026-11-02", "2026-11-06"))).toContain("done it,2,8,1,1,14,");
  });
});
