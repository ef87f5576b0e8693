import { performance } from "node:perf_hooks";
import { readPace, readPaceMacros, readPaceSenders, readReview, type Context, type PaceQuery } from "@/server/act";
import { keepPace } from "@/server/pace";
import { medianOf, say, timed, type Figure } from "./figures";

const MESSAGES = 1_000_000;
const DAYS = 3 * 365;
const DAY_MS = 86_400_000;
/** Messages that one run decides. */
const A_RUN = 3;
/** A chart is to be there within a second. */
const MOST_MS = 1000;
const TRIES = 3;

/** Three years of mail, of which all but the newest twentieth was decided by runs of the person's. */
async function fill({ db, person }: Context): Promise<void> {
  const { sql } = db;
  const [folders] = await sql<{ inbox: number; archive: number }[]>`
    select max(id) filter (where role = 'inbox') as inbox, max(id) filter (where role = 'archive') as archive from folder`;
  const { inbox, archive } = folders!;
  const decided = Math.floor((MESSAGES * 0.95) / A_RUN) * A_RUN;
  await sql`
    insert into message (person, id, content, thread, date, size, traits, from_name, from_address, recipients, cc, subject, preview,
      list, attachments, flaws, from_key, to_key, subject_key, list_key)
    select ${person}, n, n, n / 4, now() - (${MESSAGES} - n) * (${DAYS} * interval '1 day' / ${MESSAGES}), 4000,
      case when n % 4 = 3 and n % 5 = 0 then 2 else 0 end, 'Sender ' || n % 1999, 's' || n % 1999 || '@post.example', '[]', '[]',
      'number ' || n, '', case when n % 3 = 0 then 'list' || n % 101 || '.example' else '' end, '{}', '{}', ' ', ' ', ' ', ' '
    from generate_series(1, ${MESSAGES}) n`;
  await sql`
    insert into message_state (person, message, folder, bits, sender)
    select ${person}, n, case when n <= ${decided} then ${archive}::int else ${inbox}::int end, n % 3, 1 + n % 1999
    from generate_series(1, ${MESSAGES}) n`;
  await sql`
    insert into ledger (person, seq, run, kind, actor, hand, at, macro, name, steps, messages, changed, state, change, skipped, restorable)
    select ${person}, n, gen_random_uuid(), 'run', 'person', 'key', m.date + (n % 97) * interval '1 hour', null, 'Filed ' || n % 12,
      '[{"do":"archive"}]', ${A_RUN}, ${A_RUN}, 'done',
      jsonb_build_object('v', 2, 'things', '[]'::jsonb, 'groups', jsonb_build_array(jsonb_build_object(
        'steps', jsonb_build_array((n - 1) * ${A_RUN} + 1, 1, 1),
        'edits', jsonb_build_array(jsonb_build_object('kind', 'folder', 'before', ${inbox}::int, 'after', ${archive}::int))))), '[]', ${A_RUN}
    from generate_series(1, ${decided / A_RUN}) n join message m on m.person = ${person} and m.id = n * ${A_RUN}`;
  await sql`update person set seq = ${decided / A_RUN} where id = ${person}`;
  await sql`vacuum analyze`;
}

/** What the figures of a million messages and three years of decisions take. */
export async function paceFigures(context: Context): Promise<Figure[]> {
  const { db, person, zone } = context;
  say(`figures of ${MESSAGES.toLocaleString("en")} messages`);
  await fill(context);
  const counting = await medianOf(TRIES, () => db.sql`select count(*) from message_state where person = ${person}`);
  const floor = { floor: "counting the messages' states", floorMs: counting, budget: null };
  const began = performance.now();
  await keepPace(db, person, zone);
  say(`three years of ledger read in ${Math.round((performance.now() - began) / 1000)} s`);
  await db.sql`vacuum analyze`;
  const today = Math.floor(Date.now() / DAY_MS);
  const query: PaceQuery = { from: today - DAYS, to: today, by: "week", place: null, account: null, until: null };
  const read = async (what: string, work: () => Promise<unknown>): Promise<Figure> => ({
    what: `${what}, three years of 1,000,000`,
    ms: await medianOf(TRIES, work),
    floor: "a second",
    floorMs: MOST_MS,
    budget: 1,
  });
  await db.sql`
    with p as (update person set seq = seq + 1 where id = ${person} returning id, seq)
    insert into ledger (person, seq, run, kind, actor, at, name, steps, messages, changed, state, change, skipped)
    select id, seq, gen_random_uuid(), 'run', 'person', now(), 'Filed', '[]', 1, 1, 'done',
      jsonb_build_object('v', 2, 'things', '[]'::jsonb, 'groups', jsonb_build_array(jsonb_build_object('steps',
        jsonb_build_array(${MESSAGES}::int), 'edits', jsonb_build_array(jsonb_build_object('kind', 'folder', 'before', s.folder, 'after', s.folder + 1))))), '[]'
    from p join message_state s on s.message = ${MESSAGES}`;
  const followed = await timed(() => keepPace(db, person, zone));
  return [
    await read("flow, backlog, week, waits", () => readPace(context, query)),
    await read("who fills the inbox", () => readPaceSenders(context, query)),
    await read("macros", () => readPaceMacros(context, query)),
    await read("a week looked back on", () => readReview(context, null)),
    { what: "figures follow one decision", ms: followed, ...floor },
  ];
}
