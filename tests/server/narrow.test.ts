import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { ColumnCursor, columnSeekers, decodeIndex, Masks, RowIndex, type Columns } from "@/core/columns";
import { messageId } from "@/core/id";
import { matchingRows } from "@/core/list";
import { fold, matcher, readNarrow } from "@/core/narrow";
import { importFile, readIndex, runMacro } from "@/server/act";
import { mboxEntry, readParts, textOf } from "@/core/mail";
import { readDirectory } from "@/server/run";
import { doJob, indexWords, ParsePool } from "@/server/jobs";
import { pageOfIds } from "@/server/search";
import { generate } from "../../demo/generate";
import { freshDatabase, WORKER, type Fresh } from "./database";

let fresh: Fresh;
let columns: Columns;
/** The folded words of each message, read without the index. */
const bodies = new Map<number, string>();
/** When open tasks are due, by message, read by hand. */
const tasks = new Map<number, number[]>();
const NOW = new Date("2026-11-24T12:00:00Z");

beforeAll(async () => {
  fresh = await freshDatabase();
  const pool = new ParsePool(WORKER, 2);
  const world = [...generate({ messages: 500, seed: 21, now: NOW })];
  for (const folder of ["Inbox", "Bookings"]) {
    const part = world.filter((_, i) => (i % 2 === 0) === (folder === "Inbox"));
    async function* file() {
      yield Buffer.concat(part.map((m) => mboxEntry(m.raw, m.sender, m.date)));
    }
    const id = await importFile(fresh.context, "x", folder, file());
    const [row] = await fresh.db.sql`select * from job where id = ${id}`;
    await doJob(fresh.db, row as never, pool);
  }
  await pool.close();
  await indexWords(
    fresh.db,
    () => new ParsePool(WORKER, 2),
    () => false,
  );
  const raws = await fresh.db.sql<{ id: number; raw: Uint8Array }[]>`
    select m.id, c.raw from message m join content c on c.id = m.content`;
  for (const { id, raw } of raws) bodies.set(id, fold(textOf((await readParts(raw)).email)));
  const every = async (narrow: string, ...steps: object[]) =>
    runMacro(fresh.context, { id: crypto.randomUUID(), macro: { name: "x", steps }, target: { narrow } } as never);
  await every("subject~invoice", { do: "flag", due: "+3d", note: "pay" }, { do: "label", add: "Invoice" });
  await every("from~warden", { do: "marker", set: "W" }, { do: "note", text: "Ring back, Zürich" });
  await every("attachment & folder=Inbox", { do: "pin" });
  await every("subject~hut", { do: "make task", due: "+2d" });
  await every("subject~week & attachment", { do: "make task" });
  await every("subject~week & folder=Inbox", { do: "make task", due: "2026-11-01" });
  await every("subject~weather", { do: "defer", until: "+2d" });
  await every("subject~week", { do: "defer", until: "+2d" }, { do: "end deferral" });
  await fresh.db.sql`update task set done = true where id % 3 = 0`;
  const open = await fresh.db.sql<{ message: number; due: Date | null }[]>`select * from task where not done`;
  for (const { message, due } of open)
    tasks.set(message, [...(tasks.get(message) ?? []), due === null ? NaN : new Date(due).getTime()]);
  const bytes = await readIndex(fresh.context, { test: { kind: "all" } }, 10_000, null);
  columns = decodeIndex(bytes.buffer as ArrayBuffer).columns;
});
afterAll(() => fresh.drop());

const leaf = fc.constantFrom(
  ...[
    "read",
    "unread",
    "flagged",
    "pinned",
    "attachment",
    "invite",
    "listmail",
    "answered",
    "mine",
    "junk",
    "owed",
    "deferred",
    "awaited",
    "returned",
    "task",
  ],
  ...[
    "folder=Inbox",
    "folder~book",
    "label=Invoice",
    "label~win",
    "marker=W",
    "marker=R",
    "note~zurich",
    'note="ring back"',
  ],
  ...[
    "from~ma",
    "from=statements@bergbank.example",
    "to~wardens",
    "anyone~okafor",
    "subject~week",
    'subject~"week 4"',
    "list~ridgenotes",
  ],
  ...[
    "size>1k",
    "size<600",
    "size=500..900",
    "age>7d",
    "age<=2w",
    "age=3d",
    "age=1d..20d",
    "date=2026-11",
    "date>=2026-10-15",
    "date=2026-11-10+-2d",
  ],
  ...["due<=today", "due>today", "due=2026", "hut", '"larch saddle"', "invoice", "Łukasz", "bergbank"],
  ...["deferred<=today", "deferred>today", "deferred=2026", "account=local", "account~x"],
  ...["cc~ward", "via=wardens", "via~book", "file~pdf", "file=plan", 'file~".ics"'],
  ...["body~hut", "body=hut", 'body~"the hu"', 'body="thank you"', "text~beds", 'text="larch saddle"', "text~marsh"],
);
const expression: fc.Arbitrary<string> = fc.letrec<{ e: string }>((tie) => ({
  e: fc.oneof(
    { maxDepth: 4, depthSize: "small" },
    leaf,
    tie("e").map((a) => `!(${a})`),
    fc.tuple(tie("e"), tie("e")).map(([a, b]) => `(${a} & ${b})`),
    fc.tuple(tie("e"), tie("e")).map(([a, b]) => `(${a} | ${b})`),
    fc.tuple(tie("e"), tie("e")).map(([a, b]) => `${a} ${b}`),
  ),
})).e;

describe("the back ends: all rows at once, row by row, and SQL", () => {
  test("find the same messages for any expression", async () => {
    const directory = await readDirectory(fresh.db.sql, fresh.context.person);
    let some = 0;
    await fc.assert(
      fc.asyncProperty(expression, async (source) => {
        const checked = readNarrow(source, { directory, now: NOW, zone: "Europe/Zurich" });
        if (!checked.ok) throw new Error(`${source}: ${JSON.stringify(checked.issues)}`);
        const cursor = new ColumnCursor(columns, tasks);
        const words = (needle: string) => ({ has: (id: number) => bodies.get(id)!.includes(needle) });
        const matches = matcher(checked.test, columnSeekers(columns, cursor, words));
        const here: number[] = [];
        for (cursor.row = 0; cursor.row < columns.count; cursor.row++)
          if (matches(cursor)) here.push(columns.id[cursor.row]!);
        const known = (needle: string) => [...bodies].filter(([, body]) => body.includes(needle)).map(([id]) => id);
        const mask = new Masks(columns, new RowIndex(columns.id, columns.count), known, tasks).of(checked.test);
        expect([...matchingRows(mask)].map((row) => columns.id[row])).toEqual(here);
        const there = await pageOfIds(fresh.db.sql, fresh.context.person, checked.test, "oldest", null);
        expect(here.map(messageId)).toEqual(there.map((place) => place.id));
        if (here.length > 0 && here.length < columns.count) some++;
      }),
      { numRuns: 300 },
    );
    // Expressions that match nothing or everything would prove little.
    expect(some).toBeGreaterThan(100);
  });
});
