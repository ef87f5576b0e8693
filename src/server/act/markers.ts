import { and, eq } from "drizzle-orm";
import type { z } from "zod";
import type { markerPatch, newMarker } from "@/core/api";
import { markerTable } from "../db";
import { notFound, Refusal, type Context } from "./context";
import { readDirectory, tellOfSettings } from "./directory";
import { followRenaming } from "./follow";
import { orTaken } from "./taken";

const MOST_MARKERS = 8;

export async function createMarker(context: Context, body: z.infer<typeof newMarker>) {
  const { db, person } = context;
  const { markers } = await readDirectory(context);
  const free = Array.from({ length: MOST_MARKERS }, (_, i) => i + 1).find((n) => !markers.some((m) => m.id === n));
  if (free === undefined)
    throw new Refusal(409, "No more markers", `There are ${MOST_MARKERS} markers already, which is all there can be.`);
  await orTaken("marker", body.letter, () =>
    db.orm.insert(markerTable).values({ person, id: free, position: markers.length, ...body }),
  );
  await tellOfSettings(db.sql, context);
  return { id: free, used: true, ...body };
}

/** Puts a marker at that place of the order; the others keep theirs. */
async function place(context: Context, id: number, position: number): Promise<void> {
  const { db, person } = context;
  const others = (await readDirectory(context)).markers.map((marker): number => marker.id).filter((m) => m !== id);
  others.splice(position, 0, id);
  await db.sql`
    update marker m set position = o.n - 1 from unnest(${others}::int[]) with ordinality as o(id, n)
    where m.person = ${person} and m.id = o.id`;
}

export async function changeMarker(context: Context, id: number, body: z.infer<typeof markerPatch>) {
  const { db, person } = context;
  const old = (await readDirectory(context)).markers.find((marker) => marker.id === id);
  if (!old) throw notFound("marker", id);
  const { position, ...fields } = body;
  const next = { ...old, ...fields };
  await orTaken("marker", next.letter, () =>
    db.orm
      .update(markerTable)
      .set({ letter: next.letter, colour: next.colour, meaning: next.meaning, used: next.used })
      .where(and(eq(markerTable.person, person), eq(markerTable.id, id))),
  );
  if (position !== undefined) await place(context, id, position);
  if (next.letter !== old.letter) await followRenaming(context, { what: "marker", from: old.letter, to: next.letter });
  await tellOfSettings(db.sql, context);
  return next;
}

export async function deleteMarker(context: Context, id: number): Promise<void> {
  const { db, person } = context;
  const [used] = await db.sql<{ n: number }[]>`
    select count(*)::int as n from message_state where person = ${person} and marker = ${id}`;
  if (used && used.n > 0)
    throw new Refusal(
      409,
      "Still in use",
      `${used.n} messages carry this marker. Clear it from them first, then delete it.`,
    );
  const gone = await db.orm
    .delete(markerTable)
    .where(and(eq(markerTable.person, person), eq(markerTable.id, id)))
    .returning();
  if (gone.length === 0) throw notFound("marker", id);
  await tellOfSettings(db.sql, context);
}
