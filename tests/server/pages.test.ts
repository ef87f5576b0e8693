import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { COLUMNS_VERSION, decodeIndex, encodeIndex } from "@/core/columns";
import { runId } from "@/core/id";
import {
  eventsFor,
  listMessages,
  noteNarrowing,
  listNarrowings,
  readIndex,
  readIndexSince,
  readLedger,
  readTest,
  runMacro,
  takeBack,
  type Event,
} from "@/server/act";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** What comes in pieces: past the first piece, and past what is kept. */
let fresh: Fresh;
let ids: number[];
beforeAll(async () => {
  fresh = await freshDatabase();
  ids = await fillWithMessages(fresh, 300);
});
afterAll(() => fresh.drop());

const toggle = (some: readonly number[], name = "Toggle") =>
  runMacro(fresh.context, {
    id: randomUUID(),
    macro: { name, steps: [{ do: "toggle read" }] },
    target: { ids: some },
  } as never);
const index = async (bytes: Promise<Uint8Array>) => decodeIndex((await bytes).buffer as ArrayBuffer);

describe("the ledger", () => {
  test("finds a message's runs past many that only might be about it", async () => {
    const [first, middle, last] = [ids[0]!, ids[150]!, ids.at(-1)!];
    const mine = await toggle([middle], "Mine");
    // Two hundred and more whose first and last message stand on both sides of it.
    for (let i = 0; i < 205; i++) await toggle([first, last], `Around ${i}`);
    const newest = await toggle([middle], "Mine again");
    const found = await readLedger(fresh.context, { limit: 10, message: middle as never });
    expect(found.map((entry) => entry.id)).toEqual([newest.entry!.id, mine.entry!.id]);
    const one = await readLedger(fresh.context, { limit: 1, message: middle as never });
    expect(one.map((entry) => entry.id)).toEqual([newest.entry!.id]);
    const older = await readLedger(fresh.context, { limit: 10, message: middle as never, before: newest.entry!.seq });
    expect(older.map((entry) => entry.id)).toEqual([mine.entry!.id]);
    expect(await readLedger(fresh.context, { limit: 10, message: ids[151] as never })).toEqual([]);
  });

  test("tells of every write in order, past a page of events, each once", async () => {
    const from = (await readLedger(fresh.context, { limit: 1 }))[0]!.seq;
    const made: string[] = [];
    for (let i = 0; i < 120; i++) made.push((await toggle([ids[1]!], `Event ${i}`)).entry!.id);
    const stop = new AbortController();
    const heard: Event[] = [];
    for await (const event of eventsFor(fresh.context, from, stop.signal, async () => true)) {
      if (event.type === "written") heard.push(event);
      if (heard.length === 120) stop.abort();
    }
    expect(heard.map((event) => (event.data as { id: string }).id)).toEqual(made);
    const seqs = heard.map((event) => event.seq!);
    expect(seqs).toEqual([...seqs].sort((a, b) => a - b));
    expect(new Set(seqs).size).toBe(120);
  });

  test("what still stands cannot be done again, and is not said to be undone", async () => {
    const { entry } = await toggle([ids[2]!]);
    await expect(takeBack(fresh.context, "redo", runId(entry!.id))).rejects.toMatchObject({
      status: 409,
      title: "Still done",
    });
    await takeBack(fresh.context, "undo", runId(entry!.id));
    await expect(takeBack(fresh.context, "undo", runId(entry!.id))).rejects.toMatchObject({ title: "Already undone" });
  });
});

describe("lists", () => {
  test("of messages come in pages that meet, in both orders, whatever has equal dates", async () => {
    await fresh.db.sql`update message set date = '2026-11-01' where id = any(${ids.slice(20, 60)}::bigint[])`;
    for (const order of ["oldest", "newest"] as const) {
      const seen: number[] = [];
      let after: string | null = null;
      do {
        const page: Awaited<ReturnType<typeof listMessages>> = await listMessages(fresh.context, {
          narrow: "",
          order,
          limit: 37,
          after,
        });
        expect(page.total).toBe(300);
        seen.push(...page.rows.map((row) => row.id));
        after = page.after;
      } while (after !== null);
      const rows = await fresh.db.sql<{ id: number }[]>`select id from message order by date, id`;
      const all = rows.map((row) => row.id);
      expect(seen).toEqual(order === "oldest" ? all : all.reverse());
    }
    await expect(
      listMessages(fresh.context, { narrow: "", order: "oldest", limit: 1, after: "nowhere" }),
    ).rejects.toMatchObject({ status: 400 });
  });

  test("of conditions used before hold two hundred, the last used first", async () => {
    for (let i = 0; i < 205; i++) await noteNarrowing(fresh.context, `subject~w${i}`);
    await noteNarrowing(fresh.context, "subject~w100");
    const given = await listNarrowings(fresh.context);
    expect(given.slice(0, 2)).toEqual(["subject~w100", "subject~w204"]);
    expect(given).toHaveLength(100);
    const [kept] = await fresh.db.sql<{ n: number }[]>`select count(*)::int as n from narrowed`;
    expect(kept!.n).toBe(200);
    await expect(noteNarrowing(fresh.context, "form~x")).rejects.toMatchObject({ status: 400 });
  });
});

describe("the index", () => {
  const all = { kind: "all" } as const;
  test("comes in parts that meet, newest id first, each in order of date, and says where the next begins", async () => {
    const seen: number[] = [];
    let before: number | null = null;
    do {
      const part: Awaited<ReturnType<typeof index>> = await index(readIndex(fresh.context, { test: all }, 90, before));
      const ids = [...part.columns.id];
      const dated = await fresh.db.sql<{ id: number }[]>`
        select id from message where id = any(${ids}::bigint[]) order by date, id`;
      expect(ids).toEqual(dated.map((row) => row.id));
      seen.push(...ids.sort((a, b) => b - a));
      before = part.next;
    } while (before !== null);
    const rows = await fresh.db.sql<{ id: number }[]>`select id from message order by id desc`;
    expect(seen).toEqual(rows.map((row) => row.id));
  });

  test("since a write holds what was touched, and what is gone; what is not known any more is refused", async () => {
    const { seq } = await index(readIndex(fresh.context, { test: all }, 1000, null));
    await toggle([ids[5]!]);
    await runMacro(fresh.context, {
      id: randomUUID(),
      macro: { name: "Gone", steps: [{ do: "delete for good" }] },
      target: { ids: [ids[6]!] },
    } as never);
    const news = await index(readIndexSince(fresh.context, seq));
    expect([[...news.columns.id], [...news.gone]]).toEqual([[ids[5]], [ids[6]]]);
    expect((await index(readIndexSince(fresh.context, news.seq))).columns.count).toBe(0);
    await expect(readIndexSince(fresh.context, news.seq + 1)).rejects.toMatchObject({ status: 409 });
    await fresh.db.sql`delete from ledger where seq <= ${seq + 1}`;
    await expect(readIndexSince(fresh.context, seq)).rejects.toMatchObject({ status: 409 });
    expect((await index(readIndexSince(fresh.context, seq + 1))).gone).toEqual([ids[6]]);
  });

  test("of another version is not taken for this one's", async () => {
    const bytes = encodeIndex({ ...(await index(readIndex(fresh.context, { test: all }, 5, null))) });
    const text = new TextDecoder("latin1").decode(bytes);
    const at = text.indexOf(`"v":${COLUMNS_VERSION}`);
    expect(at).toBeGreaterThan(0);
    const other = Uint8Array.from(bytes);
    other[at + 4] = "9".charCodeAt(0);
    expect(() => decodeIndex(other.buffer)).toThrow(`version 9, this is ${COLUMNS_VERSION}`);
    expect(() => decodeIndex(bytes.slice(0, bytes.length - 8).buffer)).toThrow("cut short");
    expect(() => decodeIndex(new ArrayBuffer(3))).toThrow("not a column index");
  });

  test("a condition that cannot be read says where", async () => {
    await expect(readTest(fresh.context, "unread form~x")).rejects.toMatchObject({
      status: 400,
      more: { issues: [{ from: 7, to: 11 }] },
    });
  });
});

test("a message is in its folder since it was put there, whatever else is done to it", async () => {
  const id = ids[10]!;
  const since = async () =>
    (
      await fresh.db.sql<{ ms: number }[]>`
      select (extract(epoch from folder_since) * 1000)::float8 as ms from message_state where message = ${id}`
    )[0]!.ms;
  const run = (...steps: object[]) =>
    runMacro(fresh.context, { id: randomUUID(), macro: { name: "x", steps }, target: { ids: [id] } } as never);
  await fresh.db.sql`update message_state set folder_since = '2026-01-01' where message = ${id}`;
  const before = await since();
  await run({ do: "pin" }, { do: "note", text: "x" });
  expect(await since()).toBe(before);
  const { entry } = await run({ do: "read" }, { do: "move", to: "Weather" });
  const moved = await since();
  expect(moved).toBeGreaterThan(before);
  await run({ do: "unpin" });
  expect(await since()).toBe(moved);
  await takeBack(fresh.context, "undo", runId(entry!.id));
  expect(await since()).toBeGreaterThan(moved);
});
