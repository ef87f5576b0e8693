import { randomUUID } from "node:crypto";
import fc from "fast-check";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { Taught, type Lesson } from "@/core/filing";
import { runId } from "@/core/id";
import type { Step } from "@/core/macro";
import {
  exportFiling,
  listFolders,
  readFiling,
  readGuesses,
  readMessage,
  resetFiling,
  runMacro,
  takeBack,
} from "@/server/act";
import { openDatabase } from "@/server/db";
import { Learner } from "@/server/filing";
import { letGoOldest } from "@/server/filing/model";
import { indexWords, learnFilings, ParsePool } from "@/server/jobs";
import { fillWithRecent, freshDatabase, WORKER, type Fresh } from "./database";
import { serviceOf } from "./service";

/** What is learned follows from where mail is, whoever put it there, however often and through whichever process. */

let fresh: Fresh;
let bookings: number;
let weather: number;
beforeEach(async () => {
  fresh = await freshDatabase();
  const folders = await listFolders(fresh.context);
  const idOf = (path: string): number => folders.find((one) => one.path === path)!.id;
  [bookings, weather] = [idOf("Bookings"), idOf("Weather")];
});
afterEach(() => fresh.drop());

const HALF_YEAR_MS = 182 * 86_400_000;
const wordsAreThere = () => fresh.db.sql`
  insert into word_index (person, through) values (${fresh.context.person}, 1000000) on conflict (person) do update set through = 1000000`;
const learn = (learner = new Learner(fresh.db), now = new Date()) => learnFilings(fresh.db, learner, now);
const run = async (steps: Step[], ids: readonly number[], more: { guesses?: number[][] } = {}) =>
  (await runMacro(fresh.context, { id: randomUUID(), macro: { name: "x", steps }, target: { ids: [...ids] }, ...more }))
    .entry!;
const held = () => exportFiling(fresh.context);
const guessesOf = async (id: number) => (await readGuesses(fresh.context, [id], new Date())).messages[0]!.guesses;

/** The oracle: what all receipts together come to. */
async function sumOfReceipts(): Promise<string> {
  const rows = await fresh.db.sql<{ receipt: string }[]>`select receipt from filing_receipt where left_at is null`;
  const taught = Taught.nothing();
  for (const { receipt } of rows) taught.relearn(JSON.parse(receipt) as Lesson);
  return JSON.stringify(taught);
}
/** Where mail that counts is, without looking at anything that was learned. */
const filed = async () =>
  (
    await fresh.db.sql<{ message: number; folder: number }[]>`
      select s.message, s.folder from message_state s join folder f on f.person = s.person and f.id = s.folder
      where f.role is null or f.role in ('archive', 'junk') order by 1`
  ).map(({ message, folder }) => [message, folder]);
const receipts = async () =>
  (
    await fresh.db.sql<{ message: number; folder: number }[]>`
      select message, folder from filing_receipt where left_at is null order by 1`
  ).map(({ message, folder }) => [message, folder]);

/** Senders by number are at s0 to s6. */
const sendersOf = async (ids: readonly number[]) =>
  new Map(await Promise.all(ids.map(async (id) => [id, (await readMessage(fresh.context, id)).from.address] as const)));

describe("filing", () => {
  test("teaches where mail of a sender goes, and says what it goes by", async () => {
    const ids = await fillWithRecent(fresh, 70);
    await wordsAreThere();
    const senders = await sendersOf(ids);
    const [from1, from2] = ["s1@post.example", "s2@post.example"].map((address) =>
      ids.filter((id) => senders.get(id) === address),
    ) as [number[], number[]];
    await run([{ do: "move", to: "Bookings" }], from1.slice(1));
    await run([{ do: "move", to: "Weather" }], from2.slice(1));
    await learn();
    const [first, second] = await guessesOf(from1[0]!);
    expect([first!.folder, second!.folder]).toEqual([bookings, weather]);
    expect(first!.percent).toBeGreaterThan(80);
    expect(second!.percent).toBeLessThan(20);
    expect(first!.why[0]).toBe("9 messages from this sender are there");
    expect((await guessesOf(from2[0]!))[0]!.folder).toBe(weather);
    // By name it is filed where it was guessed; the message itself is in the oracle's place.
    await run([{ do: "move", to: { guess: "folder" } }], [from1[0]!]);
    expect((await readMessage(fresh.context, from1[0]!)).folder).toBe("Bookings");
    const { learned, folders } = await readFiling(fresh.context);
    expect([learned, folders.map(({ folder, learned: n }) => [folder, n])]).toEqual([
      18,
      [
        ["Bookings", 9],
        ["Weather", 9],
      ],
    ]);
    expect(folders[0]!.signs).toContainEqual({ text: "from s1@post.example", times: 9 });
  });

  test("taken back leaves nothing behind, to the last bit; done again it is learned again", async () => {
    const ids = await fillWithRecent(fresh, 30);
    await wordsAreThere();
    await run([{ do: "move", to: "Bookings" }], ids.slice(0, 10));
    const learner = new Learner(fresh.db);
    await learn(learner);
    const before = await held();
    const moved = await run([{ do: "move", to: "Weather" }], ids.slice(5, 20));
    await learn(learner);
    const after = await held();
    expect(after).not.toBe(before);
    await takeBack(fresh.context, "undo", runId(moved.id));
    await learn(learner);
    expect(await held()).toBe(before);
    await takeBack(fresh.context, "redo", runId(moved.id));
    await learn(learner);
    expect(await held()).toBe(after);
    await takeBack(fresh.context, "undo", runId(moved.id));
    await learn(learner);
    expect(await held()).toBe(before);
    // Taken back before anybody looked: there is nothing to learn.
    const quick = await run([{ do: "move", to: "Weather" }], ids.slice(25));
    await takeBack(fresh.context, "undo", runId(quick.id));
    await learn(learner);
    expect(await held()).toBe(before);
    expect(await sumOfReceipts()).toBe(before);
  });

  test("of a thousand is kept whole, of a few in a journal; every process comes to the same", async () => {
    const ids = await fillWithRecent(fresh, 1500, bookings);
    await wordsAreThere();
    const other = openDatabase(fresh.url, 2);
    try {
      const [a, b] = [new Learner(fresh.db), new Learner(other)];
      expect(await learn(a)).toBe(1500);
      const rows = await fresh.db.sql<{ kept: boolean; journal: number }[]>`
        select kept is not null as kept, (select count(*)::int from filing_journal) as journal from filing`;
      expect(rows).toEqual([{ kept: true, journal: 0 }]);
      expect(await held()).toBe(await sumOfReceipts());
      // By turns in two processes, each of which missed what the other did.
      for (const [n, learner] of [a, b, a, b].entries()) {
        await run([{ do: "move", to: n % 2 === 0 ? "Weather" : "Inbox" }], ids.slice(n * 7, n * 7 + 20));
        expect(await learn(learner)).toBeGreaterThan(0);
        expect(await held()).toBe(await sumOfReceipts());
      }
      expect(await receipts()).toEqual(await filed());
      const again = await exportFiling({ ...fresh.context, db: other });
      expect(again).toBe(await held());
    } finally {
      await other.close();
    }
  });

  test("learned by several processes at once is learned once", async () => {
    await fillWithRecent(fresh, 300, weather);
    await wordsAreThere();
    const others = [openDatabase(fresh.url, 3), openDatabase(fresh.url, 3)];
    const counts = await Promise.all([fresh.db, ...others].map((db) => learnFilings(db, new Learner(db), new Date())));
    expect(counts.reduce((a, b) => a + b)).toBe(300);
    expect(await held()).toBe(await sumOfReceipts());
    expect(await receipts()).toEqual(await filed());
    await Promise.all(others.map((db) => db.close()));
  });

  test("broken off in the middle goes on, and learns nothing twice", async () => {
    const ids = await fillWithRecent(fresh, 40, bookings);
    await wordsAreThere();
    const learner = new Learner(fresh.db);
    await fresh.db.sql.unsafe(`
      create function fails() returns trigger language plpgsql as $$ begin raise exception 'the disk is full'; end $$;
      create trigger fails before delete on filing_due for each row execute function fails()`);
    await expect(learn(learner)).rejects.toThrow("the disk is full");
    expect(await receipts()).toEqual([]);
    await fresh.db.sql.unsafe("drop trigger fails on filing_due");
    expect(await learn(learner)).toBe(40);
    expect(await held()).toBe(await sumOfReceipts());
    expect((await receipts()).length).toBe(ids.length);
    expect(await learn(learner)).toBe(0);
  });

  test("follows whatever is done to mail, looked at after each of it or after some", async () => {
    const ids = await fillWithRecent(fresh, 30);
    await wordsAreThere();
    const learner = new Learner(fresh.db);
    // Before anything was ever filed there is nothing held to compare.
    await run([{ do: "move", to: "Bookings" }], ids.slice(0, 1));
    await learn(learner);
    const deed = fc.record({
      some: fc.subarray(ids, { minLength: 1, maxLength: 6 }),
      step: fc.constantFrom<Step>(
        { do: "move", to: "Weather" },
        { do: "move", to: "Bookings" },
        { do: "archive" },
        { do: "junk" },
        { do: "read" },
        { do: "copy", to: "Weather" },
        { do: "delete for good" },
      ),
      isUndone: fc.boolean(),
      looks: fc.boolean(),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(deed, { minLength: 1, maxLength: 3 }), async (deeds) => {
        for (const { some, step, isUndone, looks } of deeds) {
          const { entry } = await runMacro(fresh.context, {
            id: randomUUID(),
            macro: { name: "x", steps: [step] },
            target: { ids: some },
          });
          if (entry && entry.restorable > 0 && isUndone) await takeBack(fresh.context, "undo", runId(entry.id));
          if (looks) await learn(learner);
        }
        await learn(learner);
        const there = new Set((await fresh.db.sql<{ id: number }[]>`select id from message`).map(({ id }) => id));
        // What was deleted for good has taught all the same.
        expect((await receipts()).filter(([id]) => there.has(id!))).toEqual(await filed());
        expect(await held()).toBe(await sumOfReceipts());
      }),
      { numRuns: 15 },
    );
  });

  test("waits for the words of a message, which tell where it belongs", async () => {
    const service = await serviceOf(fresh);
    const arrive = (n: number, text: string) =>
      service.arrives(`G <g${n}@post.example>`, `no. ${n}`, "", `${text}\r\n`);
    const stoves = [await arrive(1, "the stove smokes"), await arrive(2, "a stove is cold")];
    const snow = [await arrive(3, "snow fell"), await arrive(4, "more snow")];
    const asked = await arrive(5, "our stove");
    await run([{ do: "move", to: "Bookings" }], stoves);
    await run([{ do: "move", to: "Weather" }], snow);
    expect(await learn()).toBe(0);
    await indexWords(
      fresh.db,
      () => new ParsePool(WORKER, 1),
      () => false,
    );
    expect(await learn()).toBe(4);
    const [first] = await guessesOf(asked);
    expect(first!.folder).toBe(bookings);
    expect(first!.why.join()).toContain("“stove” in its text, filed there 2 times");
  });

  test("and throwing away as junk teaches what is junk; what was taken back is unlearned", async () => {
    const ids = await fillWithRecent(fresh, 140);
    await wordsAreThere();
    const senders = await sendersOf(ids);
    const from = (n: number) => ids.filter((id) => senders.get(id) === `s${n}@post.example`);
    const [pest, friend] = [from(1), from(2)];
    const junkOf = async (id: number) => (await readGuesses(fresh.context, [id], new Date())).messages[0]!.junk;
    await run([{ do: "archive" }], friend.slice(1));
    await learn();
    // With no junk yet there is nothing to tell it by.
    expect(await junkOf(pest[0]!)).toBeNull();
    const before = await held();
    const junked = await run([{ do: "junk" }], pest.slice(1));
    await learn();
    expect((await junkOf(pest[0]!))!.percent).toBeGreaterThan(75);
    expect((await junkOf(pest[0]!))!.why.join()).toMatch(/from this sender are junk/);
    expect((await junkOf(friend[0]!))!.percent).toBeLessThan(25);
    const { junk } = await readFiling(fresh.context);
    expect(junk).toMatchObject({ junk: pest.length - 1, wanted: friend.length - 1 });
    expect(junk.signs).toContainEqual({ text: "from s1@post.example", times: pest.length - 1 });
    // Neither place is one of those mail is filed into.
    expect(await guessesOf(pest[0]!)).toEqual([]);
    expect((await readFiling(fresh.context)).learned).toBe(0);
    await takeBack(fresh.context, "undo", runId(junked.id));
    await learn();
    expect(await held()).toBe(before);
    // Let out of junk, it says so of others.
    await run([{ do: "junk" }], ids.slice(50));
    await run([{ do: "not junk" }, { do: "archive" }], ids.slice(50, 60));
    await learn();
    expect(await held()).toBe(await sumOfReceipts());
    expect(await receipts()).toEqual(await filed());
  });

  test("is not unlearned by tidying up years later, but by trashing what was just filed", async () => {
    const ids = await fillWithRecent(fresh, 8, bookings);
    await wordsAreThere();
    await learn();
    const before = await held();
    await run([{ do: "trash" }], [ids[0]!]);
    // It was filed the day it is dated, which is long ago by then.
    await learn(new Learner(fresh.db), new Date(Date.now() + HALF_YEAR_MS));
    expect(await held()).toBe(before);
    await run([{ do: "move", to: "Weather" }], [ids[1]!]);
    await learn();
    await run([{ do: "trash" }], [ids[1]!]);
    await learn();
    expect((await receipts()).map(([id]) => id)).not.toContain(ids[1]);
    expect(await held()).toBe(await sumOfReceipts());
  });

  test("forgotten is gone, and learned anew from the folders as they are, if that is wanted", async () => {
    await fillWithRecent(fresh, 50, bookings);
    await wordsAreThere();
    const learner = new Learner(fresh.db);
    await learn(learner);
    const before = await held();
    await resetFiling(fresh.context, { anew: false });
    expect(await held()).toBe(JSON.stringify(Taught.nothing()));
    expect(await learn(learner)).toBe(0);
    expect((await readFiling(fresh.context)).folders).toEqual([]);
    await resetFiling(fresh.context, { anew: true });
    expect(await learn(learner)).toBe(50);
    expect(await held()).toBe(before);
    // Also where it is asked for by several at once.
    await Promise.all([true, false, true, false].map((anew) => resetFiling(fresh.context, { anew })));
    await Promise.all([true, true, true, true].map((anew) => resetFiling(fresh.context, { anew })));
    expect(await learn(learner)).toBe(50);
    expect(await held()).toBe(before);
  });

  test("of one person is nothing to another", async () => {
    const ids = await fillWithRecent(fresh, 5, bookings);
    await wordsAreThere();
    await learn();
    const other = { ...fresh.context, person: 999 as never };
    expect(await exportFiling(other)).toBe("null");
    expect((await readGuesses(other, ids, new Date())).messages.map(({ guesses }) => guesses)).toEqual(
      ids.map(() => []),
    );
  });
});

describe("what a run files by", () => {
  test("is what the person saw, whatever has been learned since", async () => {
    const ids = await fillWithRecent(fresh, 20);
    await wordsAreThere();
    await run([{ do: "move", to: "Bookings" }], ids.slice(5));
    await learn();
    expect((await guessesOf(ids[0]!))[0]!.folder).toBe(bookings);
    const steps: Step[] = [{ do: "move", to: { guess: "folder" } }];
    await run(steps, ids.slice(0, 3), {
      guesses: [[ids[0]!, weather, 90], [ids[1]!], [ids[2]!, weather, 59, bookings, 41]],
    });
    const folders = await Promise.all(ids.slice(0, 3).map(async (id) => (await readMessage(fresh.context, id)).folder));
    // Seen to be sure; seen without a guess; seen below what it must be.
    expect(folders).toEqual(["Weather", "Inbox", "Inbox"]);
    // Not told, it is as it is learned.
    await run(steps, [ids[1]!]);
    expect((await readMessage(fresh.context, ids[1]!)).folder).toBe("Bookings");
    await run([{ do: "move", to: { guess: "folder", nth: 2 } }], [ids[2]!], {
      guesses: [[ids[2]!, bookings, 70, weather, 2]],
    });
    expect((await readMessage(fresh.context, ids[2]!)).folder).toBe("Weather");
  });

  test("is none where what was told is no folder, or none that mail is filed into", async () => {
    const [id] = await fillWithRecent(fresh, 1);
    for (const folder of [4711, 2, 3])
      expect(
        (
          await runMacro(fresh.context, {
            id: randomUUID(),
            macro: { name: "x", steps: [{ do: "move", to: { guess: "folder" } }] },
            target: { ids: [id!] },
            guesses: [[id!, folder, 99]],
          })
        ).skipped,
      ).toMatchObject([{ reason: "no-folder" }]);
    expect((await readMessage(fresh.context, id!)).folder).toBe("Inbox");
  });

  test("is never a folder that is no more", async () => {
    const ids = await fillWithRecent(fresh, 12);
    await wordsAreThere();
    await run([{ do: "move", to: "Weather" }], ids.slice(1));
    await learn();
    await fresh.db.sql`update folder set removed = true where id = ${weather}`;
    expect(await guessesOf(ids[0]!)).toEqual([]);
  });

  test("of more messages than are told at once is refused", async () => {
    const many = Array.from({ length: 501 }, (_, i) => i + 1);
    await expect(readGuesses(fresh.context, many, new Date())).rejects.toThrow("at most 500");
  });
});

test("a process lets go what was used longest ago, by how much it is, and keeps what was used last", () => {
  const after = (sizes: readonly number[], most: number) => {
    const all = new Map(sizes.map((size, i) => [String(i), { taught: { size } as Taught }]));
    letGoOldest(all, most);
    return [...all.keys()].map(Number);
  };
  expect(after([5, 5, 5], 15)).toEqual([0, 1, 2]);
  expect(after([5, 5, 5], 14)).toEqual([1, 2]);
  expect(after([1, 9, 5], 10)).toEqual([2]);
  expect(after([9, 1, 5], 10)).toEqual([1, 2]);
  expect(after([5, 5, 50], 10)).toEqual([2]);
  expect(after([50], 10)).toEqual([0]);
  expect(after([], 10)).toEqual([]);
});
