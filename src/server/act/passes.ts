import type { z } from "zod";
import { MOST_IN_PASS, type newPass, type PassDetail, type passPatch, type PassShape } from "@/core/api";
import type { PersonId } from "@/core/id";
import { loadNarrow, storeNarrow, type StoredNarrow } from "@/core/narrow";
import type { Queryable } from "../db";
import { inTurn, notFound, readNames, Refusal } from "../run";
import { listOf, readDeeds, tell } from "../store";
import type { Context } from "./context";
import { readTest } from "./messages";

/** Passes: what they go through is fixed when they are begun, so that what arrives disturbs nobody. */

type Row = Omit<PassShape, "narrow" | "startedAt" | "endedAt"> & {
  readonly narrow: StoredNarrow;
  readonly started: number;
  readonly ended: number | null;
};

/** So many that are not ended are offered to be gone on with. */
const MOST_OPEN = 20;

async function passesOf(sql: Queryable, person: PersonId, id: string | null): Promise<PassShape[]> {
  const { nameOf } = await readNames(sql, person);
  const rows = await sql<Row[]>`
    select p.id, p.name, p.narrow, p."order", p.at, p.through, p.limit_minutes as limit, (extract(epoch from p.started_at) * 1000)::float8 as started,
      (extract(epoch from p.ended_at) * 1000)::float8 as ended, cardinality(p.queue) as length,
      (select count(distinct d.message)::int from pass_deed d left join ledger l on l.person = d.person and l.run = d.run
        where d.person = p.person and d.pass = p.id and l.state is distinct from 'undone') as decided
    from pass p where p.person = ${person}
      and (p.id = ${id}::uuid or (${id}::uuid is null and p.ended_at is null))
    order by p.started_at desc, p.id limit ${MOST_OPEN}`;
  return rows.map(({ narrow, started, ended, ...row }) => ({
    ...row,
    narrow: loadNarrow(narrow, nameOf),
    startedAt: new Date(started).toISOString(),
    endedAt: ended === null ? null : new Date(ended).toISOString(),
  }));
}

/** Those that are not ended. */
export const listPasses = ({ db, person }: Context): Promise<PassShape[]> => passesOf(db.sql, person, null);

async function detailOf(sql: Queryable, person: PersonId, id: string): Promise<PassDetail> {
  const [pass] = await passesOf(sql, person, id);
  if (!pass) throw notFound("pass", id);
  const [lists] = await sql<{ queue: number[]; skipped: number[] }[]>`
    select queue, skipped from pass where person = ${person} and id = ${id}`;
  const deeds = await readDeeds(sql, person, id);
  return { ...pass, ...lists!, deeds: deeds.map((deed) => ({ ...deed, at: new Date(deed.at).toISOString() })) };
}

export const readPass = ({ db, person }: Context, id: string): Promise<PassDetail> => detailOf(db.sql, person, id);

/** Begins a pass; the same id again answers with the one there is. */
export async function createPass(context: Context, body: z.infer<typeof newPass>): Promise<PassDetail> {
  const { db, person } = context;
  await readTest(context, body.narrow);
  return inTurn(db, person, async (tx) => {
    const { idOf } = await readNames(tx, person);
    const [made] = await tx`
      insert into pass (person, id, name, narrow, "order", through, queue)
      values (${person}, ${body.id}, ${body.name}, ${JSON.stringify(storeNarrow(body.narrow, idOf))}::text::jsonb,
        ${body.order}, (select coalesce(max(id), 0) from message where person = ${person}), ${listOf([...new Set(body.queue)])}::text::bigint[])
      on conflict do nothing returning id`;
    if (made) await tell(tx, person, "settings");
    return detailOf(tx, person, body.id);
  });
}

/** Notes where a pass has come to. Lists are added to, so that two windows on one pass take nothing from each other. */
export async function changePass(
  { db, person }: Context,
  id: string,
  { at, order, limit, skip = [], add = [], ended }: z.infer<typeof passPatch>,
): Promise<PassShape> {
  return inTurn(db, person, async (tx) => {
    const [row] = await tx<{ length: number }[]>`
      update pass set at = coalesce(${at ?? null}::bigint, at), "order" = coalesce(${order ?? null}, "order"),
        limit_minutes = case when ${limit === undefined} then limit_minutes else ${limit ?? null}::int end,
        ended_at = case when ${ended === undefined} then ended_at when ${ended ?? false} then coalesce(ended_at, now()) end,
        skipped = array(select distinct unnest(skipped || ${listOf(skip)}::text::bigint[])),
        queue = array(select distinct unnest(queue || ${listOf(add)}::text::bigint[]))
      where person = ${person} and id = ${id} returning cardinality(queue) as length`;
    if (!row) throw notFound("pass", id);
    if (row.length > MOST_IN_PASS)
      throw new Refusal(422, "Too long", `A pass goes through ${MOST_IN_PASS} messages at most. Begin another one.`);
    if (ended !== undefined || add.length > 0) await tell(tx, person, "settings");
    const [pass] = await passesOf(tx, person, id);
    return pass!;
  });
}

/** Forgets a pass; what was decided in it stays. */
export async function deletePass({ db, person }: Context, id: string): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const rows = await tx`delete from pass where person = ${person} and id = ${id} returning id`;
    if (rows.length === 0) throw notFound("pass", id);
    await tx`delete from pass_deed where person = ${person} and pass = ${id}`;
    await tell(tx, person, "settings");
  });
}
