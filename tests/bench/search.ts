import { readNarrow } from "@/core/narrow";
import { type Context } from "@/server/act";
import { readDirectory } from "@/server/run";
import { countMatches, pageOfIds } from "@/server/search";
import { medianOf, say, type Figure } from "./figures";

/** Words are filled in for so many messages at most: filling in a million takes longer than all the rest. */
const MOST_INDEXED = 100_000;
const PAGE = 100;

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
  const floorMs = await medianOf(
    5,
    () => sql`select id from message where person = ${person} order by date limit ${PAGE}`,
  );
  const figures: Figure[] = [];
  for (const source of ["helicopter", '"hut office"', "invoi & unread"]) {
    const checked = readNarrow(source, { directory, now: new Date(), zone: context.zone });
    if (!checked.ok) throw new Error(source);
    const { test } = checked;
    const of = `${source}, words of ${row!.n.toLocaleString("en")}`;
    const floor = { floor: `${PAGE} rows by date`, floorMs, budget: null };
    figures.push(
      {
        what: `first ${PAGE} rows of ${of}`,
        ms: await medianOf(5, () => pageOfIds(sql, person, test, "newest", PAGE)),
        ...floor,
      },
      { what: `exact count of ${of}`, ms: await medianOf(3, () => countMatches(sql, person, test)), ...floor },
    );
  }
  return figures;
}
