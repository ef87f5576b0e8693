import type { HeldState, Pause } from "@/core/change";
import type { PersonId } from "@/core/id";
import type { Queryable, Transaction } from "../db";
import { listOf } from "./list";
import type { ThingTable } from "./thing-table";

/** Messages on their way, and runs that wait for a draft: what of them changes may write. */

const numbers = (keys: readonly string[]): string => listOf(keys.map(Number));

/** Seconds a message is held back where the person has not said. */
export const USUAL_HOLD = 10;

export const held: ThingTable<"held"> = {
  async read(sql, person, keys) {
    const rows = await sql<{ message: number; state: HeldState }[]>`
      select message, case when state in ('later', 'refused') then 'waiting' else state end as state from held where person = ${person} and message = any(${numbers(keys)}::text::bigint[])`;
    return rows.map(({ message, state }) => [String(message), state]);
  },
  async write(tx, person, edits) {
    const began = edits.filter(({ before, after }) => after === "waiting" && before === null).map(({ key }) => key);
    // Who gets it stands in the draft, blind copies too; each address once.
    await tx`
      insert into held (person, message, account, state, at, mail_from, recipients)
      select d.person, d.message, (select a.id from account a where a.person = d.person
          order by (lower(a.address) = lower(d.sender->>'address')) desc, (a.kind = 'internet') desc, a.id limit 1), 'waiting',
        greatest(d.send_at, now() + make_interval(secs => coalesce((p.settings->>'holdSeconds')::int, ${USUAL_HOLD}))),
        d.sender->>'address',
        coalesce((select jsonb_agg(jsonb_build_object('address', r.address, 'state', 'waiting', 'said', null) order by r.n)
          from (select distinct on (lower(e->>'address')) e->>'address' as address, n
            from jsonb_array_elements(d.recipients || d.cc || d.bcc) with ordinality as x(e, n)
            order by lower(e->>'address'), n) r), '[]')
      from draft d join person p on p.id = d.person
      where d.person = ${person} and d.message = any(${numbers(began)}::text::bigint[])
      on conflict (person, message) do update set state = 'waiting', at = excluded.at, attempt = held.attempt,
        tried_since = null, mail_from = excluded.mail_from, recipients = excluded.recipients, said = null`;
    for (const { key, before, after } of edits)
      if (before !== null && after !== null)
        await tx`
          update held set state = ${after}, at = case when ${after} = 'waiting' then now() else at end
          where person = ${person} and message = ${Number(key)}`;
    const ended = edits.filter(({ after }) => after === null).map(({ key }) => key);
    await tx`delete from held where person = ${person} and message = any(${numbers(ended)}::text::bigint[])`;
    return [];
  },
};

export const pause: ThingTable<"pause"> = {
  async read(sql, person, keys) {
    const rows = await sql<(Pause & { draft: number })[]>`
      select draft, run, message, at, macro from pause
      where person = ${person} and draft = any(${numbers(keys)}::text::bigint[])`;
    return rows.map(({ draft, ...value }) => [String(draft), value]);
  },
  async write(tx, person, edits) {
    const made = edits.flatMap(({ key, after }) => (after ? [{ ...after, draft: Number(key) }] : []));
    if (made.length > 0)
      await tx`
        insert into pause (person, draft, run, message, at, macro)
        select ${person}, p.* from jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb)
          as p(draft bigint, run uuid, message bigint, at text, macro text)
        on conflict (person, draft) do update set run = excluded.run, message = excluded.message, at = excluded.at,
          macro = excluded.macro`;
    const ended = edits.filter(({ after }) => after === null).map(({ key }) => key);
    if (ended.length > 0)
      await tx`delete from pause where person = ${person} and draft = any(${numbers(ended)}::text::bigint[])`;
    return [];
  },
};

/** The runs that wait for these drafts. */
export async function readPauses(
  sql: Queryable,
  person: PersonId,
  drafts: readonly number[],
): Promise<ReadonlyMap<number, Pause>> {
  const found = await pause.read(sql, person, drafts.map(String));
  return new Map([...found].map(([key, value]) => [Number(key), value]));
}

/** Claims a message for sending, in the person's turn, so that nobody calls it back meanwhile. @returns whether it was free */
export async function claimHeld(tx: Transaction, person: PersonId, message: number, attempt: number): Promise<boolean> {
  const rows = await tx`
    update held set state = 'sending', attempt = ${attempt + 1}
    where person = ${person} and message = ${message} and attempt = ${attempt} and state in ('waiting', 'later')
      and at <= now() returning message`;
  return rows.length === 1;
}
