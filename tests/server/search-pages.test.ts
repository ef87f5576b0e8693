import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { STATE_BIT } from "@/core/columns";
import { listMessages } from "@/server/act";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** Pages of a search for words, whichever way they are found: beside what each message holds, counted here. */

const COUNT = 2400;
let fresh: Fresh;
let ids: number[];

/** By its place: every message holds "hut", every third "office" behind it, every 300th "helicopter". */
const wordsAt = (at: number): string =>
  ["number", "hut", at % 3 === 0 ? "office" : "keeper", ...(at % 300 === 7 ? ["helicopter"] : [])].join(" ");
const isRead = (id: number): boolean => id % 3 === 0;

beforeAll(async () => {
  fresh = await freshDatabase();
  ids = await fillWithMessages(fresh, COUNT);
  const { sql } = fresh.db;
  const vectors = ids.map((_, at) =>
    wordsAt(at)
      .split(" ")
      .map((word, place) => `'${word}':${place + 1}`)
      .join(" "),
  );
  await sql`
    insert into message_words (person, message, words)
    select ${fresh.context.person}, w.id, w.vector::tsvector
    from unnest(${`{${ids.join()}}`}::text::bigint[], ${vectors}::text[]) as w(id, vector)`;
  await sql`insert into word_index (person, through) values (${fresh.context.person}, ${Math.max(...ids)})`;
  await sql`analyze message_words`;
});
afterAll(() => fresh.drop());

/** All of a search, page by page. */
async function paged(narrow: string, order: "newest" | "oldest", limit: number) {
  const rows: number[] = [];
  let total = 0;
  for (let after: string | null = null; ;) {
    const page = await listMessages(fresh.context, {
      narrow,
      order,
      limit,
      after: after as never,
    });
    rows.push(...page.rows.map(({ id }) => id));
    total = page.total;
    after = page.after;
    if (after === null) return { rows, total };
  }
}

const wanted = (order: "newest" | "oldest", test: (at: number, id: number) => boolean): number[] => {
  const held = ids.filter((id, at) => test(at, id));
  return order === "oldest" ? held : held.reverse();
};

const CASES: readonly (readonly [narrow: string, test: (at: number, id: number) => boolean])[] = [
  ["hut", () => true],
  ['"hut office"', (at) => at % 3 === 0],
  ["helicopter", (at) => at % 300 === 7],
  ["hut & office", (at) => at % 3 === 0],
  ["hut & unread", (_, id) => !isRead(id)],
  ["office & read & folder=Inbox", (at, id) => at % 3 === 0 && isRead(id)],
  ["hut & !office & unread", (at, id) => at % 3 !== 0 && !isRead(id)],
  ["helicopter | office & unread", (at, id) => at % 300 === 7 || (at % 3 === 0 && !isRead(id))],
  ["hut & size>900", (_, id) => 100 + (contentOf.get(id)! % 1000) > 900],
];
const contentOf = new Map<number, number>();

describe("pages of a search for words", () => {
  beforeAll(async () => {
    const rows = await fresh.db.sql<{ id: number; content: number; bits: number }[]>`
      select m.id, m.content, s.bits from message m join message_state s on s.person = m.person and s.message = m.id`;
    for (const { id, content, bits } of rows) {
      contentOf.set(id, content);
      expect((bits & STATE_BIT.read) !== 0).toBe(isRead(id));
    }
  });

  test.each(CASES)("%s: each match once, in order, and all of them counted", async (narrow, holds) => {
    for (const [order, limit] of [
      ["newest", 90],
      ["oldest", 200],
    ] as const) {
      const { rows, total } = await paged(narrow, order, limit);
      const all = wanted(order, holds);
      expect(rows, `${order}, ${limit} a page`).toEqual(all);
      expect(total).toBe(all.length);
    }
  });

  test("messages that are not indexed yet are found by their headers, on pages that are full too", async () => {
    const { sql } = fresh.db;
    const half = ids[COUNT / 2]!;
    await sql`update word_index set through = ${half}`;
    await sql`delete from message_words where message > ${half}`;
    // Subjects say "number N", and so do the words of those that are indexed: nobody is left out between them.
    const { rows, total } = await paged("number", "newest", 200);
    expect(rows).toEqual(wanted("newest", () => true));
    expect(total).toBe(COUNT);
    expect((await paged("hut", "newest", 50)).rows).toEqual(wanted("newest", (_, id) => id <= half));
    await sql`update word_index set through = ${Math.max(...ids)}`;
  });
});
