import type { Context } from "@/server/act";
import { createFolder, readGuesses } from "@/server/act";
import { forget, Learner, readFilingMails } from "@/server/filing";
import type { Transaction } from "@/server/db";
import { median, medianOf, say, timed, type Figure } from "./figures";

const FOLDERS = 40;
const ASKED = 1000;
const AT_ONCE = 250;

/** Learning where the whole mailbox is filed, and guessing by it. Folders follow from senders, as habits do. */
export async function filingFigures(context: Context): Promise<Figure[]> {
  const { db, person } = context;
  const { sql } = db;
  const folders: number[] = [];
  for (let i = 0; i < FOLDERS; i++) folders.push((await createFolder(context, { path: `Habit ${i}` })).id);
  await sql`
    update message_state set folder = (${folders}::int[])[1 + sender % ${FOLDERS}] where person = ${person} and sender <> 0`;
  await sql`
    insert into word_index (person, through) select ${person}, max(id) from message where person = ${person}
    on conflict (person) do update set through = excluded.through`;
  await sql`vacuum analyze message_state`;
  const ids = (
    await sql<{ message: number }[]>`
      select message from message_state where person = ${person} and sender <> 0 order by message`
  ).map(({ message }) => message);
  say(`learning where ${ids.length.toLocaleString("en")} messages are filed`);
  const readMs = await timed(async () => {
    for (let at = 0; at < ids.length; at += AT_ONCE) await readFilingMails(sql, person, ids.slice(at, at + AT_ONCE));
  });
  await sql.begin((tx) => forget(tx as Transaction, person, true));
  const learner = new Learner(db);
  const learnMs = await timed(() => learner.learn(person, new Date(), () => false));
  const now = new Date();
  const asked = ids.filter((_, i) => i % Math.ceil(ids.length / ASKED) === 0);
  await readGuesses(context, asked.slice(0, 1), now);
  const guessMs = await medianOf(3, async () => {
    for (let at = 0; at < asked.length; at += AT_ONCE) await readGuesses(context, asked.slice(at, at + AT_ONCE), now);
  });
  const one: number[] = [];
  for (const id of asked.slice(0, 100)) one.push(await timed(() => readGuesses(context, [id], now)));
  return [
    {
      what: `learning where ${ids.length.toLocaleString("en")} messages are filed`,
      ms: learnMs,
      floor: "reading them",
      floorMs: readMs,
      budget: null,
    },
    {
      what: "1,000 guesses, read and ranked",
      ms: (guessMs * ASKED) / asked.length,
      floor: "a second",
      floorMs: 1000,
      budget: 1,
    },
    { what: "one guess, asked of the server", ms: median(one), floor: "5 ms", floorMs: 5, budget: 1 },
  ];
}
