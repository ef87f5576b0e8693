import type { z } from "zod";
import type { batchPatch, BatchShape, newBatch } from "@/core/api";
import type { PersonId } from "@/core/id";
import { loadNarrow, storeNarrow, type NameOf, type StoredNarrow } from "@/core/narrow";
import type { Queryable } from "../db";
import { inTurn, notFound, readNames } from "../run";
import { tell } from "../store";
import type { Context } from "./context";
import { placeAt } from "./order";
import { readTest } from "./messages";
import { orTaken } from "./taken";
import { bringBack, takeOut } from "./taken-out";

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

export async function changeBatch(context: Context, id: number, body: z.infer<typeof batchPatch>): Promise<BatchShape> {
  const { db, person } = context;
  const { position, deleted, ...fields } = body;
  if (fields.narrow !== undefined) await readTest(context, fields.narrow);
  return inTurn(db, person, async (tx) => {
    if (deleted === false) await bringBack(tx, "batch", person, id);
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
    if (position !== undefined) await placeAt(tx, "batch", person, id, position);
    await tell(tx, person, "settings");
    return next;
  });
}

export async function deleteBatch({ db, person }: Context, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    if (!(await takeOut(tx, "batch", person, id))) throw notFound("batch", id);
    await tell(tx, person, "settings");
  });
}
