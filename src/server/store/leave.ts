import type { Leaving } from "@/core/change";
import type { ThingTable } from "./thing-table";

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
      delete from leaving where person = ${person} and source = any(${gone}::text[])
        and (state <> 'left' or how = 'letter') returning source`;
    const deleted = new Set(rows.map(({ source }) => source));
    return gone.filter((key) => !deleted.has(key));
  },
};
