import { readNarrow } from "@/core/narrow";
import { type Context } from "@/server/act";
import { readDirectory } from "@/server/run";
import { countMatches, pageOfIds } from "@/server/search";
import { medianOf, say, type Figure } from "./figures";

/** Words are filled in for so many messages at most: filling in a million takes longer than all the rest. */
const MOST_INDEXED = 100_000;
const PAGE = 100;

/** What is looked for, in our language and as PostgreSQL's. */
const SOUGHT = [
  { source: "helicopter", query: "'helicopter':*", unread: false },
  { source: '"hut office"', query: "'hut' <-> 'office':*", unread: false },
  { source: "invoi & unread", query: "'invoi':*", unread: true },
];

/** Searching words on the server, over an index of words as the job makes it. */
export async function searchFigures(context: Context): Promise<Figure[]> {
  say("text search");
  const { db, person } = context;
  const { sql } = db;
  const [row] = await sql<{ n: number }[]>`
    with last as (select max(id) as id from message where person = ${person}),
    w as (insert into message_words (person, message, words)
      select m.person, m.id, to_tsvector('simple', m.subject || ' ' || m.preview || ' ' || m.from_name)
      from message m where m.person = ${person} order by m.id desc limit ${MOST_INDEXED} returning 1)
    select count(*)::int as n from w`;
  await sql`insert into word_index (person, through) select ${person}, max(id) from message where person = ${person}`;
  await sql`vacuum analyze message_words`;
  const directory = await readDirectory(context.db.sql, context.person);
  const figures: Figure[] = [];
  for (const { source, query, unread } of SOUGHT) {
    const checked = readNarrow(source, { directory, now: new Date(), zone: context.zone });
    if (!checked.ok) throw new Error(source);
    const { test } = checked;
    const of = `${source}, words of ${row!.n.toLocaleString("en")}`;
    const words = sql`w.person = ${person} and w.words @@ ${query}::tsquery`;
    const state = unread
      ? sql`join message_state s on s.person = w.person and s.message = w.message and s.bits & 1 = 0`
      : sql``;
    const page = () => sql`
      select m.id, m.date from message_words w join message m on m.person = w.person and m.id = w.message ${state}
      where ${words} order by m.date desc, m.id desc limit ${PAGE}`;
    const count = () => sql`select count(*) from message_words w ${state} where ${words}`;
    const floor = { floor: "the same query written by hand", budget: 1.5 };
    figures.push(
      {
        what: `first ${PAGE} rows of ${of}`,
        ms: await medianOf(7, () => pageOfIds(sql, person, test, "newest", PAGE)),
        ...floor,
        floorMs: await medianOf(7, page),
      },
      {
        what: `exact count of ${of}`,
        ms: await medianOf(7, () => countMatches(sql, person, test)),
        ...floor,
        floorMs: await medianOf(7, count),
      },
    );
  }
  return figures;
}
