import { and, asc, eq, sql as raw } from "drizzle-orm";
import type { z } from "zod";
import type { batchPatch, BatchShape, newBatch } from "@/core/api";
import { batchTable } from "../db";
import { notFound, type Context } from "./context";
import { tellOfSettings } from "./directory";
import { readTest } from "./messages";
import { orTaken } from "./taken";

/** Saved narrowings. They are queries, not lists: nothing is in a batch but what matches now. */

const shapeOf = ({ id, name, narrow, order, group, deck }: typeof batchTable.$inferSelect): BatchShape => ({
  id,
  name,
  narrow,
  order: order as BatchShape["order"],
  group: group as BatchShape["group"],
  deck: deck as BatchShape["deck"],
});

export async function listBatches({ db, person }: Context): Promise<BatchShape[]> {
  const rows = await db.orm
    .select()
    .from(batchTable)
    .where(eq(batchTable.person, person))
    .orderBy(asc(batchTable.position), asc(batchTable.id));
  return rows.map(shapeOf);
}

export async function createBatch(context: Context, body: z.infer<typeof newBatch>): Promise<BatchShape> {
  const { db, person } = context;
  await readTest(context, body.narrow);
  const position = raw`(select coalesce(max(position), 0) + 1 from batch where person = ${person})`;
  const [row] = await orTaken("batch", body.name, () =>
    db.orm
      .insert(batchTable)
      .values({ person, ...body, position })
      .returning(),
  );
  await tellOfSettings(db.sql, context);
  return shapeOf(row!);
}

/** Puts a batch at that place of the rack; the others keep their order. */
async function place(context: Context, id: number, position: number): Promise<void> {
  const { db, person } = context;
  const others = (await listBatches(context)).map((batch) => batch.id).filter((other) => other !== id);
  others.splice(position, 0, id);
  await db.sql`
    update batch b set position = o.n from unnest(${others}::int[]) with ordinality as o(id, n)
    where b.person = ${person} and b.id = o.id`;
}

export async function changeBatch(context: Context, id: number, body: z.infer<typeof batchPatch>): Promise<BatchShape> {
  const { db, person } = context;
  const { position, ...fields } = body;
  const where = and(eq(batchTable.person, person), eq(batchTable.id, id));
  const [old] = await db.orm.select().from(batchTable).where(where);
  if (!old) throw notFound("batch", id);
  if (fields.narrow !== undefined) await readTest(context, fields.narrow);
  if (Object.keys(fields).length > 0)
    await orTaken("batch", fields.name ?? old.name, () => db.orm.update(batchTable).set(fields).where(where));
  if (position !== undefined) await place(context, id, position);
  await tellOfSettings(db.sql, context);
  const [now] = await db.orm.select().from(batchTable).where(where);
  return shapeOf(now!);
}

export async function deleteBatch(context: Context, id: number): Promise<void> {
  const { db, person } = context;
  const gone = await db.orm
    .delete(batchTable)
    .where(and(eq(batchTable.person, person), eq(batchTable.id, id)))
    .returning();
  if (gone.length === 0) throw notFound("batch", id);
  await tellOfSettings(db.sql, context);
}
