import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { decodeIndex, stateAt, textAt } from "@/core/columns";
import { docOfText } from "@/core/letter";
import { mboxEntry } from "@/core/mail";
import {
  changeDraft,
  createDraft,
  importFile,
  listMessages,
  readHome,
  readIndex,
  readIndexSince,
  readTest,
  runMacro,
  wordsWith,
} from "@/server/act";
import { readDirectory } from "@/server/run";
import type { Transaction } from "@/server/db";
import { searchContext, unindexed, vectorOf, wordsThrough, writeWords } from "@/server/search";
import { doJob, indexWords, ParsePool } from "@/server/jobs";
import { fillWithMessages, freshDatabase, WORKER, type Fresh } from "./database";

let fresh: Fresh;
const index = () =>
  indexWords(
    fresh.db,
    () => new ParsePool(WORKER, 1),
    () => false,
  );

const message = (n: number, subject: string, body: string, more = "") =>
  Buffer.from(
    `From: Ines <ines${n}@post.example>\nTo: accounts@larchhuts.example\nSubject: ${subject}\nMessage-ID: <${n}@x.example>\nDate: Tue, 3 Nov 2026 10:0${n}:00 +0000\n${more}\n${body}\n`,
  );

async function bring(...raws: Buffer[]): Promise<void> {
  async function* file() {
    yield Buffer.concat(raws.map((raw) => mboxEntry(raw, "x@post.example", new Date())));
  }
  const id = await importFile(fresh.context, "x", "Inbox", file());
  const [row] = await fresh.db.sql`select * from job where id = ${id}`;
  const pool = new ParsePool(WORKER, 1);
  await doJob(fresh.db, row as never, pool);
  await pool.close();
}

const found = async (narrow: string) =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 50, after: null })).rows.map(
    (row) => row.subject,
  );

beforeAll(async () => {
  fresh = await freshDatabase();
  await fresh.db.sql`update person set settings = '{"aliases": ["accounts@larchhuts.example"]}'`;
  await bring(
    message(1, "Beds", "We would like the hut in Zürich, from the third to the fifth."),
    message(2, "Invoice 77", "The deposit of CHF 120 went out. Hut book attached."),
    message(3, "Third", "Nothing of note, but the hut books were found.", "Cc: wardens@larchhuts.example\n"),
  );
});
afterAll(() => fresh.drop());

describe("words", () => {
  test("are not found before they are indexed, but headers are, and it is said how many are left", async () => {
    expect((await readHome(fresh.context)).wordsLeft).toBe(3);
    expect(await found("deposit")).toEqual([]);
    expect(await found("invoice")).toEqual(["Invoice 77"]);
    expect(await index()).toBe(3);
    expect(await index()).toBe(0);
    expect((await readHome(fresh.context)).wordsLeft).toBe(0);
    expect(await found("deposit")).toEqual(["Invoice 77"]);
  });

  test.each([
    ["hut", ["Beds", "Invoice 77", "Third"]],
    ["zurich", ["Beds"]],
    ["ZÜRICH", ["Beds"]],
    ["depos", ["Invoice 77"]],
    ["body=depos", []],
    ['"hut book"', ["Invoice 77", "Third"]],
    ['body="hut book"', ["Invoice 77"]],
    ['"book hut"', []],
    ["third", ["Beds", "Third"]],
    ["body~third", ["Beds"]],
    ['"beds we"', []],
    ["hut !zurich", ["Invoice 77", "Third"]],
    ["ines2", ["Invoice 77"]],
    ["120", ["Invoice 77"]],
    ["cc~wardens", ["Third"]],
    ["via=accounts", ["Beds", "Invoice 77", "Third"]],
    ["via=bookings", []],
  ])("%s", async (narrow, subjects) => expect(await found(narrow)).toEqual(subjects));

  test("of copies are found too, and go with them", async () => {
    const run = (narrow: string, ...steps: object[]) =>
      runMacro(fresh.context, { id: crypto.randomUUID(), macro: { name: "x", steps }, target: { narrow } } as never);
    await run("deposit", { do: "copy", to: "Bookings" });
    expect(await found("deposit")).toEqual(["Invoice 77", "Invoice 77"]);
    await run("folder=Bookings", { do: "delete for good" });
    expect(await found("deposit")).toEqual(["Invoice 77"]);
    const [row] = await fresh.db.sql`select count(*)::int as n from message_words`;
    expect(row!.n).toBe(3);
  });

  test("are looked for by folded needles only", async () => {
    expect(await wordsWith(fresh.context, " deposit")).toHaveLength(1);
    expect(await wordsWith(fresh.context, " depos ")).toHaveLength(0);
    for (const bad of ["", "deposit", " Deposit", " a'b", " "])
      await expect(wordsWith(fresh.context, bad)).rejects.toThrow("folded");
  });
});

describe("the words of a message as PostgreSQL takes them", () => {
  const placesOf = (vector: string, word: string) =>
    vector
      .split(" ")
      .find((entry) => entry.startsWith(`'${word}':`))
      ?.slice(word.length + 3)
      .split(",");
  test("headers are marked, and no phrase runs from one field into the next", () => {
    expect(vectorOf(["Red hut", "Hut"], "hut list")).toBe("'red':1A 'hut':2A,6A,10 'list':11");
  });
  test("of one word 256 places, the last at 16,383; words after it are still found", async () => {
    const vector = vectorOf([], `${"again ".repeat(300)}${"x".repeat(120)} ${"more ".repeat(16_100)}end`);
    expect(placesOf(vector, "again")).toEqual(Array.from({ length: 256 }, (_, i) => String(i + 1)));
    expect(placesOf(vector, "x".repeat(100))).toEqual(["301"]);
    expect(placesOf(vector, "more")).toHaveLength(256);
    expect(placesOf(vector, "end")).toEqual(["16383"]);
    const [row] = await fresh.db.sql`select length(${vector}::text::tsvector) as n`;
    expect(row!.n).toBe(4);
  });
  test("a hundred thousand words, and what comes after them is no text", () => {
    const many = "a ".repeat(99_998);
    expect(placesOf(vectorOf([], `${many} b c d`), "c")).toEqual(["16383"]);
    expect(placesOf(vectorOf([], `${many} b c d`), "d")).toBeUndefined();
  });
  test("whether every word is there is asked only where words are sought, also by a person without any mail", async () => {
    const other = await freshDatabase();
    const word = await readTest(other.context, "hut");
    expect(await searchContext(other.db.sql, other.context.person, word)).toMatchObject({ indexed: true });
    expect(await wordsThrough(other.db.sql, other.context.person)).toEqual({ through: 0, left: 0 });
    await fillWithMessages(other, 2);
    expect(await searchContext(other.db.sql, other.context.person, word)).toMatchObject({ indexed: false });
    expect(
      await searchContext(other.db.sql, other.context.person, await readTest(other.context, "unread")),
    ).toMatchObject({
      indexed: false,
    });
    expect((await wordsThrough(other.db.sql, other.context.person)).left).toBe(2);
    await other.drop();
  });
});

test("what changed since a write is brought alone, and anew where it is not known any more", async () => {
  const { context } = fresh;
  const whole = decodeIndex((await readIndex(context, { test: { kind: "all" } }, 100, null)).buffer as ArrayBuffer);
  const since = async (seq: number) => decodeIndex((await readIndexSince(context, seq)).buffer as ArrayBuffer);
  expect((await since(whole.seq)).columns.count).toBe(0);
  const [first, second] = whole.columns.id;
  const run = (ids: number[], ...steps: object[]) =>
    runMacro(context, { id: crypto.randomUUID(), macro: { name: "x", steps }, target: { ids } } as never);
  await run([first!], { do: "pin" });
  await run([second!], { do: "delete for good" });
  await bring(message(4, "Late", "One more."));
  const news = await since(whole.seq);
  expect(news.gone).toEqual([second]);
  expect(news.columns.count).toBe(2);
  const row = [...news.columns.id].indexOf(first!);
  expect(stateAt(news.columns, row).pin).toBe(true);
  expect((await since(news.seq)).columns.count).toBe(0);
  await expect(readIndexSince(context, news.seq + 5)).rejects.toThrow("anew");
  await fresh.db.sql`delete from ledger where seq <= ${whole.seq + 1}`;
  await expect(readIndexSince(context, whole.seq)).rejects.toThrow("anew");
  expect((await readDirectory(context.db.sql, context.person)).folders.length).toBeGreaterThan(5);
});

test("the index holds any text as it is, also what computers use between texts", async () => {
  const { context, db } = fresh;
  const [row] = await db.sql<{ id: number }[]>`select max(id) as id from message`;
  const odd = 'tab\there, \\N, {a,b}, "quoted",\nline; é 日本';
  await db.sql`update message set subject = ${odd} where id = ${row!.id}`;
  await db.sql`update message_state set note = ${"one\x1etwo"} where message = ${row!.id}`;
  const { columns } = decodeIndex(
    (await readIndex(context, { test: { kind: "all" } }, 100, null)).buffer as ArrayBuffer,
  );
  const at = [...columns.id].indexOf(row!.id);
  expect(textAt(columns, "subject", at)).toBe(odd);
  expect(stateAt(columns, at).note).toBe("one\u001etwo");
  expect([...columns.id].map((_, i) => textAt(columns, "fromName", i))).toEqual(
    Array.from({ length: columns.count }, () => "Ines"),
  );
});

describe("the words of a letter are those it was left with", () => {
  let own: Fresh;
  beforeAll(async () => void (own = await freshDatabase()));
  afterAll(() => own.drop());
  const body = docOfText("The scree is loose above the spring.");
  const found = async (narrow: string) =>
    (await listMessages(own.context, { narrow, order: "oldest", limit: 9, after: null })).rows.map(
      (row) => row.subject,
    );

  test("also where its first words were on their way from the thread that takes them apart", async () => {
    const { id, version } = await createDraft(own.context, { kind: "new", answers: null, subject: "To be left" });
    await createDraft(own.context, { kind: "new", answers: null, subject: "Begun after it" });
    const pool = new ParsePool(WORKER, 1);
    let read = 0;
    const words: ParsePool["words"] = async (...of) => {
      const items = await pool.words(...of);
      if (read++ === 0) await changeDraft(own.context, id, { version, body, left: true });
      return items;
    };
    const slow = { words, close: () => pool.close() } as ParsePool;
    await indexWords(
      own.db,
      () => slow,
      () => false,
    );
    expect(read).toBe(2);
    expect(await found("scree")).toEqual(["To be left"]);
    expect(await found("begun")).toEqual(["Begun after it"]);
    expect((await readHome(own.context)).wordsLeft).toBe(0);
  });

  test("also where its first words were just being written", async () => {
    const { id, version } = await createDraft(own.context, { kind: "new", answers: null, subject: "Left at once" });
    const rows = await unindexed(own.db.sql, own.context.person, 10);
    expect(rows.map((row) => row.id)).toEqual([id]);
    const read = { ccKey: " ", fileKey: " ", via: "", viaKey: " ", vector: vectorOf(["Left at once"], "") };
    let leaving: Promise<unknown> = Promise.resolve();
    await own.db.sql.begin(async (tx) => {
      await writeWords(
        tx as Transaction,
        own.context.person,
        rows.map((row) => ({ ...row, ...read })),
      );
      leaving = changeDraft(own.context, id, { version, body, left: true });
      // It has come as far as it can: it waits for the message's row.
      await expect
        .poll(
          () => own.db.sql`
            select 1 from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'
              and query like '%update message%'`,
        )
        .toHaveLength(1);
    });
    await leaving;
    expect(await found("scree")).toEqual(["To be left", "Left at once"]);
  });
});
