import type { z } from "zod";
import type { batchPatch, BatchShape, newBatch } from "@/core/api";
import type { PersonId } from "@/core/id";
import { loadNarrow, storeNarrow, type NameOf, type StoredNarrow } from "@/core/narrow";
import type { Queryable, Transaction } from "../db";
import { inTurn, notFound, readNames } from "../run";
import { listOf, tell } from "../store";
import type { Context } from "./context";
import { readTest } from "./messages";
import { orTaken } from "./taken";

/** Saved narrowings. They are queries, not lists: nothing is in a batch but what matches now. */

type Row = Omit<BatchShape, "narrow"> & { readonly narrow: StoredNarrow };

async function readBatches(sql: Queryable, person: PersonId, nameOf: NameOf): Promise<BatchShape[]> {
  const rows = await sql<Row[]>`
    select id, name, narrow, "order", "group", deck from batch where person = ${person} order by position, id`;
  return rows.map((row) => ({ ...row, narrow: loadNarrow(row.narrow, nameOf) }));
}

export async function listBatches({ db, person }: Context): Promise<BatchShape[]> {
  const { nameOf } = await readNames(db.sql, person);
  return readBatches(db.sql, person, nameOf);
}

export async function createBatch(context: Context, body: z.infer<typeof newBatch>): Promise<BatchShape> {
  const { db, person } = context;
  await readTest(context, body.narrow);
  return inTurn(db, person, async (tx) => {
    const { idOf } = await readNames(tx, person);
    const [row] = await orTaken(
      "batch",
      body.name,
      () => tx<{ id: number }[]>`
        insert into batch (person, name, narrow, "order", "group", deck, position)
        values (${person}, ${body.name}, ${JSON.stringify(storeNarrow(body.narrow, idOf))}::text::jsonb, ${body.order},
          ${body.group}, ${body.deck}, (select coalesce(max(position), 0) + 1 from batch where person = ${person}))
        returning id`,
    );
    await tell(tx, person, "settings");
    return { id: row!.id, ...body };
  });
}

/** Puts a batch at that place of the rack; the others keep their order. */
async function place(tx: Transaction, person: PersonId, id: number, position: number): Promise<void> {
  const rows = await tx<{ id: number }[]>`select id from batch where person = ${person} order by position, id`;
  const others = rows.map((row) => row.id).filter((other) => other !== id);
  others.splice(position, 0, id);
  await tx`
    update batch b set position = o.n from unnest(${listOf(others)}::text::int[]) with ordinality as o(id, n)
    where b.person = ${person} and b.id = o.id`;
}

export async function changeBatch(context: Context, id: number, body: z.infer<typeof batchPatch>): Promise<BatchShape> {
  const { db, person } = context;
  const { position, ...fields } = body;
  if (fields.narrow !== undefined) await readTest(context, fields.narrow);
  return inTurn(db, person, async (tx) => {
    const { idOf, nameOf } = await readNames(tx, person);
    const old = (await readBatches(tx, person, nameOf)).find((batch) => batch.id === id);
    if (!old) throw notFound("batch", id);
    const next = { ...old, ...fields };
    await orTaken(
      "batch",
      next.name,
      () => tx`
        update batch set name = ${next.name}, narrow = ${JSON.stringify(storeNarrow(next.narrow, idOf))}::text::jsonb,
          "order" = ${next.order}, "group" = ${next.group}, deck = ${next.deck}
        where person = ${person} and id = ${id}`,
    );
    if (position !== undefined) await place(tx, person, id, position);
    await tell(tx, person, "settings");
    return next;
  });
}

export async function deleteBatch({ db, person }: Context, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const gone = await tx`delete from batch where person = ${person} and id = ${id}`;
    if (gone.count === 0) throw notFound("batch", id);
    await tell(tx, person, "settings");
  });
}
