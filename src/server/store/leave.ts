import type { Leaving } from "@/core/change";
import type { PersonId } from "@/core/id";
import { leaveHeaders, leaveWays, type LeaveWays } from "@/core/mail";
import type { Queryable } from "../db";
import type { ThingTable } from "./thing-table";

/** Of a source, so much is looked at for its headers. */
const HEAD_BYTES = 64 * 1024;

/** How a list or sender can be left. */
export interface SourceWays {
  readonly source: string;
  /** The account its newest message came through; 0 for none. */
  readonly account: number;
  /** The person's own addresses it came to. */
  readonly via: readonly string[];
  readonly ways: LeaveWays;
}

/** What the newest messages of sources say about leaving them; those without a message are left out. */
export async function readWays(
  sql: Queryable,
  person: PersonId,
  sources: readonly string[],
): Promise<readonly SourceWays[]> {
  const rows = await sql<{ source: string; account: number; via: string; head: Uint8Array }[]>`
    select s.source, m.account, m.via, substring(c.raw from 1 for ${HEAD_BYTES}) as head
    from unnest(${[...sources]}::text[]) as s(source)
      join lateral (
        select m.account, m.via, m.content from message m
          join message_state t on t.person = m.person and t.message = m.id and t.sender <> 0
        where m.person = ${person} and case when s.source like 'list %' then lower(m.list) = substring(s.source from 6)
          else lower(m.from_address) = substring(s.source from 8) and m.list = '' end
        order by m.date desc, m.id desc limit 1) m on true
      join content c on c.person = ${person} and c.id = m.content`;
  return rows.map(({ head, via, ...row }) => ({
    ...row,
    via: via.split(", ").filter(Boolean),
    ways: leaveWays(...leaveHeaders(Buffer.from(head).toString("latin1"))),
  }));
}

/**
 * What is asked to be left waits as long as a letter does before it leaves; until then it is taken back without a
 * trace. What was asked cannot be unasked.
 */
export const leaving: ThingTable<"leaving"> = {
  async read(sql, person, keys) {
    const rows = await sql<(Leaving & { source: string })[]>`
      select source, how, target, account, state from leaving
      where person = ${person} and source = any(${[...keys]}::text[])`;
    return rows.map(({ source, ...value }) => [source, value]);
  },
  async write(tx, person, edits) {
    const made = edits.flatMap(({ key, after }) => (after ? [{ key, ...after }] : []));
    if (made.length > 0)
      await tx`
        insert into leaving (person, source, how, target, account, state, at)
        select p.id, l.key, l.how, l.target, l.account, l.state, now() + case when l.state = 'waiting'
          then coalesce((p.settings->>'holdSeconds')::int, 10) * interval '1 second' else interval '0' end
        from person p, jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb)
          as l(key text, how text, target text, account int, state text)
        where p.id = ${person}
        on conflict (person, source) do update set how = excluded.how, target = excluded.target,
          account = excluded.account, state = excluded.state, at = excluded.at, attempt = 0, said = null`;
    const gone = edits.filter((edit) => edit.after === null).map((edit) => edit.key);
    const rows = await tx<{ source: string }[]>`
      delete from leaving where person = ${person} and source = any(${gone}::text[]) and state <> 'left' returning source`;
    const deleted = new Set(rows.map(({ source }) => source));
    return gone.filter((key) => !deleted.has(key));
  },
};
