import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { runId } from "@/core/id";
import { changeSettings, dryRun, readEntry, readLedger, readSimulator, runMacro, takeBack } from "@/server/act";
import { openDatabase } from "@/server/db";
import { reportDue } from "@/server/jobs";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";
import { serviceOf } from "./service";

/** Services are told what of their mail is junk, or meant to deceive: once, and not before it was held back. */

let fresh: Fresh;
let arrives: Awaited<ReturnType<typeof serviceOf>>["arrives"];
beforeAll(async () => {
  fresh = await freshDatabase();
  ({ arrives } = await serviceOf(fresh));
  await changeSettings(fresh.context, { holdSeconds: 30 });
});
afterAll(() => fresh.drop());

const later = () => new Date(Date.now() + 60_000);
const run = async (as: "junk" | "deceit", ids: readonly number[]) =>
  (
    await runMacro(fresh.context, {
      id: randomUUID(),
      macro: { name: "x", steps: [{ do: "report", as }, { do: "junk" }] },
      target: { ids: [...ids] },
    })
  ).entry!;
const told = () =>
  fresh.db.sql<{ message_id: string; told_as: string }[]>`
  select message_id, told_as from simulated_report order by n`.then((rows) => rows.map((row) => ({ ...row })));
const states = async () =>
  Object.fromEntries(
    (
      await fresh.db.sql<{ message: number; is: string }[]>`select message, told_as || ' ' || state as is from report`
    ).map(({ message, is }) => [message, is]),
  );
const messageIdOf = async (id: number) =>
  (await fresh.db.sql<{ id: string }[]>`select message_id as id from message where id = ${id}`)[0]!.id;

describe("a report", () => {
  test("waits, is taken back until it goes, and goes once, whichever process looks", async () => {
    const ids = [await arrives("a@b.example", "One"), await arrives("c@d.example", "Two")];
    const first = await run("junk", ids);
    expect(await reportDue(fresh.db, new Date())).toBe(0);
    await takeBack(fresh.context, "undo", runId(first.id));
    expect(await states()).toEqual({});
    expect(await reportDue(fresh.db, later())).toBe(0);
    await takeBack(fresh.context, "redo", runId(first.id));
    const other = openDatabase(fresh.url, 2);
    const counts = await Promise.all([reportDue(fresh.db, later()), reportDue(other, later())]);
    await other.close();
    expect(counts[0] + counts[1]).toBe(2);
    expect(await told()).toEqual(
      await Promise.all(ids.map(async (id) => ({ message_id: await messageIdOf(id), told_as: "junk" }))),
    );
    expect((await readSimulator(fresh.context)).reported).toBe(2);
    expect(await states()).toEqual({ [ids[0]!]: "junk told", [ids[1]!]: "junk told" });
    // Again says nothing new; as something else it does.
    await run("junk", ids);
    expect(await reportDue(fresh.db, later())).toBe(0);
    await run("deceit", [ids[0]!]);
    expect(await reportDue(fresh.db, later())).toBe(1);
    expect((await told()).at(-1)).toMatchObject({ told_as: "deceit" });
    const [entry] = await readLedger(fresh.context, { limit: 1 });
    expect(entry).toMatchObject({ actor: "outbox", cause: "report", about: "1 message" });
    const { changes, also } = await readEntry(fresh.context, runId(entry!.id));
    expect([...also, ...changes.flatMap(({ made }) => made)]).toEqual(["reported as deceit"]);
  });

  test("that the disk has no room for is not told, and told later", async () => {
    const id = await arrives("a@b.example", "Three");
    await run("junk", [id]);
    const before = (await told()).length;
    await fresh.db.sql.unsafe(`
      create function full_disk() returns trigger language plpgsql as $$ begin raise exception 'no room'; end $$;
      create trigger no_room before insert on simulated_report for each row execute function full_disk()`);
    await expect(reportDue(fresh.db, later())).rejects.toThrow("no room");
    expect((await states())[id]).toBe("junk waiting");
    await fresh.db.sql.unsafe("drop trigger no_room on simulated_report");
    expect(await reportDue(fresh.db, later())).toBe(1);
    expect(await told()).toHaveLength(before + 1);
  });

  test("on mail that is on its server no more does not wait for ever", async () => {
    const id = await arrives("a@b.example", "Gone there");
    const { sql } = fresh.db;
    await sql`update account set kind = 'internet'`;
    await run("junk", [id]);
    expect(await reportDue(fresh.db, later())).toBe(0);
    expect((await states())[id]).toBe("junk waiting");
    expect(await reportDue(fresh.db, new Date(Date.now() + 2 * 86_400_000))).toBe(0);
    expect((await states())[id]).toBe("junk refused");
    await sql`update account set kind = 'simulated'`;
  });

  test("on mail that came through no service says that it could not be told; one's own is left alone", async () => {
    const [id] = await fillWithMessages(fresh, 1);
    await run("junk", [id!]);
    expect(await reportDue(fresh.db, later())).toBe(0);
    expect((await states())[id!]).toBe("junk refused");
    const own = await arrives("bookings@larchhuts.example", "Own");
    const { skipped } = await runMacro(fresh.context, {
      id: randomUUID(),
      macro: { name: "x", steps: [{ do: "report", as: "deceit" }] },
      target: { ids: [own] },
    });
    expect(skipped.map(({ reason }) => reason)).toEqual(["own-mail"]);
    const target = { ids: [id!] };
    const dry = await dryRun(fresh.context, {
      macro: { name: "x", steps: [{ do: "report", as: "deceit" }] },
      target,
    } as never);
    expect(dry.messages[0]!.made).toEqual(["reported as deceit"]);
  });
});
