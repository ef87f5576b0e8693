import type { Database } from "@/server/db";
import { addPerson } from "@/server/act/begin";
import { say } from "../figures";

/** Many people with large mailboxes, made in SQL from the mail of the first one. */

const WORLD = { zone: "Europe/Zurich", aliases: [], folders: ["Bookings"], labels: [] };
export const addressOf = (n: number): string => `desk${n}@larchhuts.example`;
/** As many as there are processors, at the least. */
const AT_ONCE = 2;
/** At once, so that nothing of it has to be kept until the end. */
const PIECE = 50_000;

/** One message in so many is in the inbox. */
const IN_INBOX = 8;

async function fill({ sql }: Database, person: number, base: number, messages: number): Promise<void> {
  if (person !== base) {
    await sql`insert into content (person, id, hash, raw) select ${person}, id, hash, raw from content where person = ${base}`;
    await sql`insert into sender (person, id, domain, address) select ${person}, id, domain, address from sender where person = ${base}`;
  }
  const [own] = await sql<{ inbox: number; archive: number }[]>`
    select max(id) filter (where role = 'inbox') as inbox, max(id) filter (where role = 'archive') as archive
    from folder where person = ${person}`;
  const [{ n: there } = { n: 0 }] = await sql<
    { n: number }[]
  >`select count(*)::int as n from message where person = ${base} and id <= ${LAST}`;
  const first = person === base ? there : 0;
  for (let at = first; at < messages; at += PIECE)
    await sql`
      with base as (select m.*, s.sender, row_number() over (order by m.id) - 1 as k
        from message m join message_state s on s.person = m.person and s.message = m.id
        where m.person = ${base} and m.id <= ${LAST}),
      m as (insert into message (person, content, thread, date, size, traits, from_name, from_address, recipients, cc, subject,
          preview, list, message_id, attachments, flaws, from_key, to_key, subject_key, list_key)
        select ${person}, b.content, b.thread, b.date - n * interval '3 minutes', b.size, b.traits, b.from_name, b.from_address,
          b.recipients, b.cc, b.subject, b.preview, b.list, null, b.attachments, b.flaws, b.from_key, b.to_key, b.subject_key, b.list_key
        from generate_series(${at}::int, ${Math.min(messages, at + PIECE) - 1}::int) n join base b on b.k = n % ${there}
        returning id, content),
      s as (insert into message_state (person, message, folder, bits, sender)
        select ${person}, m.id, case when m.id % ${IN_INBOX} = 0 then ${own!.inbox}::int else ${own!.archive}::int end,
          (m.id % 3 = 0)::int, b.sender from m join (select distinct on (content) content, sender from base) b using (content) order by m.id)
      insert into message_words (person, message, words)
        select ${person}, m.id, w.words
        from m join (select distinct on (content) content, id from base) b using (content)
          join message_words w on w.person = ${base} and w.message = b.id`;
  await sql`
    insert into word_index (person, through) select ${person}, max(id) from message where person = ${person}
    on conflict (person) do update set through = excluded.through`;
}

/** Mail of the first person that others are copied from has ids up to this one. */
const LAST = 1_000_000;

/** @returns the people, the first one among them */
export async function fillPeople(db: Database, people: number, messages: number): Promise<number[]> {
  const { sql } = db;
  const [first] = await sql<{ id: number }[]>`select min(id)::int as id from person`;
  const base = first!.id;
  await sql`select setval(pg_get_serial_sequence('message', 'id'), ${LAST})`;
  const all = [base];
  for (let n = 2; n <= people; n++) {
    const around = { before: async () => {}, after: (_: unknown, person: number) => Promise.resolve(person) };
    all.push(await addPerson(db, { ...WORLD, name: `Desk ${n}`, address: addressOf(n) }, around));
  }
  // An index of words is made in a tenth of the time once all is there.
  await sql`drop index message_words_words`;
  const left = [...all];
  const filling = Array.from({ length: AT_ONCE }, async () => {
    for (let person = left.shift(); person !== undefined; person = left.shift()) {
      await fill(db, person, base, messages);
      if (left.length % 10 === 0) say(`${left.length} people are left`);
    }
  });
  await Promise.all(filling);
  // As somebody's mail is once it was learned from: no past is left to be looked at.
  await sql`truncate filing_due`;
  await sql`
    insert into filing (person, method, kept, through)
    select p.id, f.method, f.kept, f.through from person p, filing f where f.person = ${base} on conflict do nothing`;
  say("making the index of words");
  await sql.begin(async (tx) => {
    await tx`set local maintenance_work_mem = '1GB'`;
    await tx`set local statement_timeout = 0`;
    await tx`create index message_words_words on message_words using gin (words)`;
  });
  say("taking statistics");
  const patient = await sql.reserve();
  await patient`set statement_timeout = 0`;
  await patient`vacuum (analyze)`;
  patient.release();
  await sql`checkpoint`;
  return all;
}
