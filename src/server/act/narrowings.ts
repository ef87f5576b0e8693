import { readTest } from "./messages";
import type { Context } from "./context";

/** Conditions that were typed, so that they need not be typed again. */

const MOST_KEPT = 200;
const MOST_GIVEN = 100;

export async function listNarrowings({ db, person }: Context): Promise<string[]> {
  const rows = await db.sql<{ text: string }[]>`
    select text from narrowed where person = ${person} order by used_at desc limit ${MOST_GIVEN}`;
  return rows.map((row) => row.text);
}

/** Notes that a condition was used. @throws Refusal when it cannot be read */
export async function noteNarrowing(context: Context, text: string): Promise<void> {
  const { db, person } = context;
  await readTest(context, text);
  await db.sql`
    insert into narrowed (person, text) values (${person}, ${text.trim()})
    on conflict (person, text) do update set uses = narrowed.uses + 1, used_at = now()`;
  await db.sql`
    delete from narrowed where person = ${person} and text in (
      select text from narrowed where person = ${person} order by used_at desc offset ${MOST_KEPT})`;
}
