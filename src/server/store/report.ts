import type { Report } from "@/core/change";
import { listOf } from "./list";
import type { ThingTable } from "./thing-table";

/** Reports wait as long as a letter does before they go; what was told cannot be untold. */
export const report: ThingTable<"report"> = {
  async read(sql, person, keys) {
    const rows = await sql<({ message: number } & Report)[]>`
      select message, told_as as as, state from report
      where person = ${person} and message = any(${listOf(keys.map(Number))}::text::bigint[])`;
    return rows.map(({ message, ...value }) => [String(message), value]);
  },
  async write(tx, person, edits) {
    const made = edits.flatMap(({ key, after }) => (after ? [{ key: Number(key), ...after }] : []));
    if (made.length > 0)
      await tx`
        insert into report (person, message, told_as, state, at)
        select p.id, r.key, r."as", r.state, now() + case when r.state = 'waiting'
          then coalesce((p.settings->>'holdSeconds')::int, 10) * interval '1 second' else interval '0' end
        from person p, jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb) as r(key bigint, "as" text, state text)
        where p.id = ${person}
        on conflict (person, message) do update set told_as = excluded.told_as, state = excluded.state, at = excluded.at`;
    const gone = edits.filter((edit) => edit.after === null).map((edit) => edit.key);
    const rows = await tx<{ message: number }[]>`
      delete from report where person = ${person} and state <> 'told'
        and message = any(${listOf(gone.map(Number))}::text::bigint[]) returning message`;
    const deleted = new Set(rows.map(({ message }) => String(message)));
    return gone.filter((key) => !deleted.has(key));
  },
};
