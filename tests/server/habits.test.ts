import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { runId } from "@/core/id";
import { createMacro, createRule, decline, deleteRule, listFound, runMacro, takeBack } from "@/server/act";
import { noticeHabits } from "@/server/jobs";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** What recurs by hand: read from the ledger, each entry once. */

let fresh: Fresh;
const macros: Record<string, number> = {};
const bySender: number[][] = [];
beforeAll(async () => {
  fresh = await freshDatabase();
  const make = async (name: string, steps: object[]) => {
    macros[name] = (await createMacro(fresh.context, { name, colour: "spruce", steps, settings: {} } as never)).id;
  };
  await make("To weather", [{ do: "move", to: "Weather" }]);
  await make("Filed somewhere", [{ do: "move", to: { ask: "folder" } }]);
  await make("Invoiced", [{ do: "label", add: "Invoice" }]);
  await fillWithMessages(fresh, 140);
  const rows = await fresh.db.sql<{ id: number; sender: number }[]>`
    select id, substring(from_address from 2 for 1)::int as sender from message order by id`;
  for (const { id, sender } of rows) (bySender[sender] ??= []).push(id);
});
afterAll(() => fresh.drop());

async function by(macro: string, ids: number[], answers?: object): Promise<string> {
  const id = runId(randomUUID());
  const target = { ids };
  await runMacro(fresh.context, { id, macro: macros[macro]!, target, ...(answers ? { answers } : {}) } as never);
  return id;
}
const found = async () => {
  await noticeHabits(fresh.db);
  return listFound(fresh.context);
};
const offered = async () =>
  (await found()).rules.map(({ narrow, folder, messages }) => `${narrow} → ${folder}: ${messages}`);
/** All that is known, as rows. */
const known = () => fresh.db.sql`select narrow, folder, macro, messages from habit order by 1, 2, 3`;

describe("what always goes the same way", () => {
  test("is offered with what speaks for it, once it is a habit; taking it back takes it away", async () => {
    const [first, ...others] = bySender[1]!;
    for (const id of others.slice(0, 5)) await by("To weather", [id]);
    expect(await offered()).toEqual([]);
    const last = await by("To weather", [first!]);
    // By its whole domain it is no habit yet: that is the same mail, and the plainer one is offered.
    expect(await offered()).toEqual(["from=s1@post.example → Weather: 6"]);
    await takeBack(fresh.context, "undo", runId(last));
    expect(await offered()).toEqual([]);
    await takeBack(fresh.context, "redo", runId(last));
    const [rule] = (await found()).rules;
    expect(rule).toEqual({
      narrow: "from=s1@post.example",
      folder: "Weather",
      macro: macros["To weather"],
      messages: 6,
      decided: 6,
    });
  });

  test("counts what was asked for too, by where it went; a rule of its own, or a no, ends it", async () => {
    for (const id of bySender[2]!.slice(0, 8)) await by("Filed somewhere", [id], { "1.to": "Bookings" });
    const rules = (await found()).rules;
    const asked = rules.find(({ narrow }) => narrow === "from=s2@post.example");
    expect(asked).toMatchObject({ folder: "Bookings", macro: null, messages: 8 });
    expect(rules.map(({ narrow }) => narrow)).toContain("from=s1@post.example");
    const { id } = await createRule(fresh.context, {
      narrow: "from=s1@post.example",
      macro: macros["To weather"]!,
      on: true,
      stop: false,
    });
    expect((await offered()).join()).not.toContain("s1@");
    await deleteRule(fresh.context, id);
    expect((await offered()).join()).toContain("s1@");
    await decline(fresh.context, { narrow: "from=s1@post.example", declined: true });
    expect((await offered()).join()).not.toContain("s1@");
    await decline(fresh.context, { narrow: "from=s1@post.example", declined: false });
    expect((await offered()).join()).toContain("s1@");
  });

  test("says nothing of runs over hundreds, nor of what rules and undos of them do", async () => {
    const before = await known();
    await fillWithMessages(fresh, 300);
    const rows = await fresh.db.sql<{ id: number }[]>`select id from message order by id desc limit 300`;
    await by(
      "To weather",
      rows.map(({ id }) => id),
    );
    await noticeHabits(fresh.db);
    expect(await known()).toEqual(before);
  });

  test("is the same read at once, piece by piece, and by two processes", async () => {
    const runs: string[] = [];
    for (const id of bySender[3]!.slice(0, 12)) {
      runs.push(await by(id % 2 === 0 ? "To weather" : "Invoiced", [id]));
      if (runs.length % 3 === 0) await takeBack(fresh.context, "undo", runId(runs.at(-2)!));
      if (runs.length % 4 === 0) await Promise.all([noticeHabits(fresh.db), noticeHabits(fresh.db)]);
    }
    await noticeHabits(fresh.db);
    const bit = await known();
    await fresh.db.sql`delete from habit`;
    await fresh.db.sql`delete from habit_sequence`;
    await fresh.db.sql`delete from habit_mark`;
    expect(await noticeHabits(fresh.db)).toBeGreaterThan(20);
    expect(await known()).toEqual(bit);
    expect(await noticeHabits(fresh.db)).toBe(0);
  });
});

test("macros that follow one another on the same mail are offered as one", async () => {
  for (const id of bySender[4]!.slice(0, 5)) {
    await by("Invoiced", [id]);
    // It counts as read meanwhile, which is no decision.
    await runMacro(fresh.context, {
      id: runId(randomUUID()),
      macro: { name: "Read", steps: [{ do: "read" }] },
      cause: "reading",
      target: { ids: [id] },
    } as never);
    await by("To weather", [id]);
  }
  // Of other mail, or taken back in between: no sequence.
  for (const id of bySender[5]!.slice(0, 4)) await by("Invoiced", [id]);
  const { macros: some } = await found();
  expect(some).toEqual([
    {
      macros: [macros["Invoiced"], macros["To weather"]],
      steps: [
        { do: "label", add: "Invoice" },
        { do: "move", to: "Weather" },
      ],
      times: 5,
      keys: 5,
    },
  ]);
  await decline(fresh.context, { macros: some[0]!.macros, declined: true });
  expect((await found()).macros).toEqual([]);
});
