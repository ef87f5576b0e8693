import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { createFolder, createMacro, runMacro, tryOnPast } from "@/server/act";
import { messageId, runId } from "@/core/id";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** What a rule would have done to the past, beside what was done by hand. */

let fresh: Fresh;
let ids: number[];
const macros: Record<string, number> = {};
const LONG_AGO = 240;
const MANY = 6200;
const byHand = (macro: string, on: readonly number[]) =>
  runMacro(fresh.context, {
    id: runId(randomUUID()),
    macro: macros[macro]!,
    target: { ids: on.map(messageId) },
  } as never);
type Piece = Awaited<ReturnType<typeof tryOnPast>>;

/** All of the past, piece by piece, as the screen asks for it. */
async function all(narrow: string, macro: string, months = LONG_AGO): Promise<Piece[]> {
  const pieces: Piece[] = [];
  let before: Piece["before"] | undefined;
  do {
    const piece = await tryOnPast(fresh.context, {
      narrow,
      macro: macros[macro]!,
      months,
      ...(before ? { before } : {}),
    });
    pieces.push(piece);
    before = piece.before;
  } while (before);
  return pieces;
}
const sum = (pieces: readonly Piece[]) => {
  const total = { agrees: 0, differs: 0, nothing: 0 };
  for (const { months } of pieces)
    for (const month of months) for (const key of ["agrees", "differs", "nothing"] as const) total[key] += month[key];
  return total;
};

beforeAll(async () => {
  fresh = await freshDatabase();
  await createFolder(fresh.context, { path: "Ferry" });
  const make = async (name: string, steps: object[]) => {
    macros[name] = (await createMacro(fresh.context, { name, colour: "spruce", steps, settings: {} } as never)).id;
  };
  await make("To ferry", [
    { do: "move", to: "Ferry" },
    { do: "label", add: "Invoice" },
  ]);
  await make("To weather", [{ do: "move", to: "Weather" }]);
  await make("Ask", [{ do: "move", to: { ask: "folder" } }]);
  await make("Guess", [{ do: "move", to: { guess: "folder" } }]);
  await make("Only long", [{ do: "if", narrow: "size>600", then: [{ do: "move", to: "Ferry" }] }]);
  ids = await fillWithMessages(fresh, MANY);
});
afterAll(() => fresh.drop());

describe("a trial on the past", () => {
  test("tells what was done by hand, piece by piece, by months of the person's clock", async () => {
    const of = async (sender: number) =>
      (
        await fresh.db.sql<{ id: number }[]>`
          select id from message where from_address = ${`s${sender}@post.example`} order by id`
      ).map(({ id }) => id);
    const mine = await of(3);
    await byHand("To ferry", mine.slice(0, 400));
    await byHand("To weather", mine.slice(400, 430));
    const pieces = await all("from=s3@post.example", "To ferry");
    expect(pieces.map(({ looked }) => looked)).toEqual([5000, MANY - 5000]);
    expect(pieces.every((piece) => piece.all === MANY)).toBe(true);
    expect(sum(pieces)).toEqual({ agrees: 400, differs: 30, nothing: mine.length - 430 });
    const differing = pieces.flatMap((piece) => piece.differing);
    expect(new Set(differing.map(({ id }) => id))).toEqual(new Set(mine.slice(400, 430)));
    expect(differing[0]).toMatchObject({
      from: expect.stringMatching(/^Sender 3$/),
      would: { folder: "Ferry", labels: ["Invoice"] },
      did: { folder: "Weather", labels: [] },
    });
    // The same by SQL, which knows the zone by itself.
    const months = await fresh.db.sql<{ month: string; n: number }[]>`
      select to_char(date at time zone 'Europe/Zurich', 'YYYY-MM') as month, count(*)::int as n from message
      where id = any(${mine}::bigint[]) group by 1`;
    const told = new Map<string, number>();
    for (const { months: of } of pieces)
      for (const { month, agrees, differs, nothing } of of)
        told.set(month, (told.get(month) ?? 0) + agrees + differs + nothing);
    expect(Object.fromEntries(told)).toEqual(Object.fromEntries(months.map(({ month, n }) => [month, n])));
    // Half of what a rule would do is not what it would do.
    await fresh.db.sql`update message_state set labels = '{}' where message = ${mine[0]!}`;
    expect(sum(await all("from=s3@post.example", "To ferry"))).toMatchObject({ agrees: 399, differs: 31 });
  });

  test("looks at mail as it arrived, not as it is now, and leaves alone what the macro would", async () => {
    const mine = (
      await fresh.db.sql<{ id: number }[]>`
      select id from message where from_address = 's5@post.example' order by id`
    ).map(({ id }) => id);
    await byHand("To weather", mine.slice(0, 10));
    expect(sum(await all("from=s5@post.example folder=Weather", "To ferry"))).toEqual({
      agrees: 0,
      differs: 0,
      nothing: 0,
    });
    const sums = sum(await all("from=s5@post.example folder=Inbox unread", "To weather"));
    expect(sums).toEqual({ agrees: 10, differs: 0, nothing: mine.length - 10 });
    const [long] = await fresh.db.sql<{ n: number }[]>`
      select count(*)::int as n from message where from_address = 's5@post.example' and size > 600`;
    const some = sum(await all("from=s5@post.example", "Only long"));
    expect(some.agrees + some.differs + some.nothing).toBe(long!.n);
  });

  test("finds words by their index, goes only as far back as asked, and leaves out one's own", async () => {
    const [old, late, own] = [ids[10]!, ids[20]!, ids[30]!];
    const { person, db } = { ...fresh.context, db: fresh.db };
    await db.sql`insert into message_words (person, message, words)
      select ${person}, m, to_tsvector('simple', 'stovepipe') from unnest(${[old, late, own]}::bigint[]) m
      on conflict (person, message) do update set words = excluded.words`;
    await db.sql`update message set date = now() - interval '70 days' where id = ${old}`;
    await db.sql`update message set date = now() - interval '3 days' where id = ${late}`;
    await db.sql`update message set traits = traits | 64, date = now() where id = ${own}`;
    const count = async (months: number) => {
      const { agrees, differs, nothing } = sum(await all("body~stovepipe", "To weather", months));
      return agrees + differs + nothing;
    };
    expect([await count(1), await count(2), await count(3)]).toEqual([1, 1, 2]);
  });
});

test("what needs somebody, or learned from that mail, is not tried", async () => {
  await expect(all("", "Ask")).rejects.toMatchObject({ status: 422 });
  await expect(all("", "Guess")).rejects.toThrow("learned from that very mail");
  await expect(all("from=", "To ferry")).rejects.toMatchObject({ status: 400 });
  await expect(tryOnPast(fresh.context, { narrow: "", macro: 9999, months: 1 })).rejects.toMatchObject({ status: 404 });
});
