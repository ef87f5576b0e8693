import { randomUUID } from "node:crypto";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { runId } from "@/core/id";
import { createMacro, runMacro, takeBack } from "@/server/act";
import { keepPace } from "@/server/pace";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** What figures are made from, kept behind the ledger. */

let fresh: Fresh;
const macros: Record<string, number> = {};
const folders: Record<string, number> = {};
let ids: number[] = [];

const keep = () => keepPace(fresh.db, fresh.context.person, "Europe/Zurich");
/** One stay as a text: where, whether it is over, and by whom. */
const staysOf = async (message: number) =>
  (
    await fresh.db.sql<{ name: string; gone: boolean; by_person: boolean }[]>`
      select f.path as name, p.gone is not null as gone, p.by_person from pace_stay p join folder f on f.id = p.place
      where p.message = ${message} order by nth`
  ).map(({ name, gone, by_person }) => `${name}${gone ? (by_person ? " decided" : " filed") : ""}`);

async function decide(macro: string, messages: number[]): Promise<string> {
  const id = runId(randomUUID());
  await runMacro(fresh.context, { id, macro: macros[macro]!, target: { ids: messages } } as never);
  return id;
}

beforeAll(async () => {
  fresh = await freshDatabase();
  const make = async (name: string, steps: object[]) => {
    macros[name] = (
      await createMacro(fresh.context, { name: `${name} it`, colour: "spruce", steps, settings: {} } as never)
    ).id;
  };
  await make("archive", [{ do: "archive" }]);
  await make("weather", [{ do: "move", to: "Weather" }]);
  await make("back", [{ do: "move", to: "Inbox" }]);
  await make("defer", [{ do: "defer", until: "+2d" }]);
  await make("return", [{ do: "end deferral" }]);
  await make("read", [{ do: "read" }]);
  for (const { id, name } of await fresh.db.sql<{ id: number; name: string }[]>`select id, path as name from folder`)
    folders[name] = id;
  ids = await fillWithMessages(fresh, 60, folders.Inbox);
  await keep();
});
afterAll(() => fresh.drop());

describe("what waits", () => {
  test("is what was there when it began, since it was written", async () => {
    const [row] = await fresh.db.sql<{ n: number; same: boolean }[]>`
      select count(*)::int as n, bool_and(p.came = m.date) as same
      from pace_stay p join message m on m.id = p.message where p.gone is null`;
    expect(row).toEqual({ n: 60, same: true });
  });

  test("ends with a decision, and taking that back takes it out of all figures", async () => {
    const before = await counts();
    const id = await decide("archive", ids.slice(0, 3));
    expect(await keep()).toBe(1);
    expect(await staysOf(ids[0]!)).toEqual(["Inbox decided"]);
    expect(await counts()).not.toEqual(before);
    await takeBack(fresh.context, "undo", runId(id));
    await keep();
    expect(await staysOf(ids[0]!)).toEqual(["Inbox"]);
    expect(await counts()).toEqual(before);
    await takeBack(fresh.context, "redo", runId(id));
    await keep();
    expect(await staysOf(ids[2]!)).toEqual(["Inbox decided"]);
    await takeBack(fresh.context, "undo", runId(id));
    await keep();
    expect(await counts()).toEqual(before);
  });

  test("goes on in another place where mail waits; deferred it waits nowhere", async () => {
    const one = ids[5]!;
    await decide("weather", [one]);
    await decide("defer", [one]);
    await keep();
    expect(await staysOf(one)).toEqual(["Inbox decided", "Weather decided"]);
    await decide("return", [one]);
    await decide("read", [one]);
    await keep();
    expect(await staysOf(one)).toEqual(["Inbox decided", "Weather decided", "Weather"]);
  });

  test("what came in is there once it is said, and is not twice where it is said again", async () => {
    const [late] = await fillWithMessages(fresh, 1, folders.Inbox);
    const arrive = () => fresh.db.sql`
      with p as (update person set seq = seq + 1 returning id, seq)
      insert into ledger (person, seq, run, kind, at, name, steps, messages, changed, state, change, skipped)
      select id, seq, gen_random_uuid(), 'arrival', now(), 'arrival', '[]', 1, 0, 'done',
        jsonb_build_object('arrived', jsonb_build_array(${late!}::bigint)), '[]' from p`;
    await arrive();
    await keep();
    expect(await staysOf(late!)).toEqual(["Inbox"]);
    await decide("archive", [late!]);
    await arrive();
    await keep();
    expect(await staysOf(late!)).toEqual(["Inbox decided"]);
    // It turns out to have come through an account.
    const counted = async () => {
      const [row] = await fresh.db.sql<{ n: number }[]>`
        select sum(count)::int as n from pace_count where account = 5 and kind = 2`;
      return row!.n;
    };
    expect(await counted()).toBeNull();
    await fresh.db.sql`update message set account = 5 where id = ${late!}`;
    await arrive();
    await keep();
    expect(await staysOf(late!)).toEqual(["Inbox decided"]);
    expect(await counted()).toBe(1);
    await fresh.db.sql`update message set account = 0 where id = ${late!}`;
    await arrive();
  });

  test("read in pieces or at once, and counted anew, it is the same", async () => {
    const act = fc.record({
      macro: fc.constantFrom("archive", "weather", "back", "defer", "return", "read", "undo", "redo"),
      from: fc.integer({ min: 0, max: 50 }),
      many: fc.integer({ min: 1, max: 12 }),
      keeps: fc.boolean(),
    });
    const done: string[] = [];
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 8 }), async (acts) => {
        for (const { macro, from, many, keeps } of acts) {
          if (macro === "undo" || macro === "redo") {
            const last = done.at(-1 - (many % Math.max(1, done.length)));
            if (last) await takeBack(fresh.context, macro, runId(last)).catch(() => null);
          } else done.push(await decide(macro, ids.slice(from, from + many)));
          if (keeps) await keep();
        }
        await keep();
        const stays = await allStays();
        const kept = await counts();
        expect(kept).toEqual(counted(stays));
        // Each waits exactly where it is, and what lies elsewhere waits no more.
        const waiting = await fresh.db.sql<{ message: number; place: number }[]>`
          select message, folder as place from message_state s join folder f on f.id = s.folder
          where defer_until is null and (role is null or role = 'inbox') order by message`;
        expect(stays.filter(({ gone }) => gone === null).map(({ message, place }) => ({ message, place }))).toEqual([
          ...waiting,
        ]);
        // From nothing, in one piece.
        await fresh.db.sql`update pace_mark set zone = 'Asia/Kathmandu'`;
        await keep();
        expect(await counts()).toEqual(kept);
      }),
      { numRuns: 12 },
    );
  });
});

interface StayRow {
  readonly message: number;
  readonly place: number;
  readonly source: number;
  readonly came: number;
  readonly gone: number | null;
  readonly by_person: boolean;
}
const allStays = () => fresh.db.sql<StayRow[]>`
  select message, place, source, (extract(epoch from came) * 1000)::float8 as came,
    (extract(epoch from gone) * 1000)::float8 as gone, by_person from pace_stay order by message, nth`;

/** What is counted, as "kind place day at" and how many. */
async function counts(): Promise<Record<string, number>> {
  const rows = await fresh.db.sql<{ key: string; count: number }[]>`
    select concat_ws(' ', kind, place, day, at) as key, count from pace_count order by 1`;
  return Object.fromEntries(rows.map(({ key, count }) => [key, count]));
}

const LOCAL = new Intl.DateTimeFormat("sv-SE", { timeZone: "Europe/Zurich", dateStyle: "short", timeStyle: "short" });
/** By hand, stay by stay. */
function counted(stays: readonly StayRow[]): Record<string, number> {
  const out: Record<string, number> = {};
  const add = (...key: number[]) => (out[key.join(" ")] = (out[key.join(" ")] ?? 0) + 1);
  const clock = (ms: number) => {
    const [date, time] = LOCAL.format(ms).split(" ") as [string, string];
    return { day: Date.parse(`${date}T00:00Z`) / 86_400_000, hour: Number(time.slice(0, 2)) };
  };
  for (const { place, source, came, gone, by_person } of stays) {
    const from = clock(came);
    add(1, place, from.day, from.hour);
    add(5, place, from.day - (from.day % 28), source);
    if (gone === null) {
      add(0, place, from.day, 2_147_483_647);
      continue;
    }
    const to = clock(gone);
    add(0, place, from.day, to.day);
    add(by_person ? 2 : 3, place, to.day, to.hour);
    // The steps are eighths of doublings from a minute on.
    let step = 0;
    while (step < 165 && 60_000 * 2 ** (step / 8) <= (gone - came) * (1 + 1e-9)) step++;
    if (by_person) add(4, place, to.day, step);
  }
  return out;
}
