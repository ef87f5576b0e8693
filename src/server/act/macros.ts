import { and, asc, eq, isNull, sql as raw } from "drizzle-orm";
import type { z } from "zod";
import type { deckPatch, deckShape, MacroShape, macroPatch, newDeck, newMacro } from "@/core/api";
import { settingsSchema, stepsSchema } from "@/core/macro";
import type { Colour } from "@/core/place";
import { deckTable, macroTable } from "../db";
import { notFound, Refusal, type Context } from "./context";
import { tellOfSettings } from "./directory";
import { followRenaming } from "./follow";

type Deck = z.infer<typeof deckShape>;

const shapeOf = (row: typeof macroTable.$inferSelect): MacroShape => ({
  id: row.id,
  name: row.name,
  colour: row.colour as Colour,
  steps: stepsSchema.parse(row.steps),
  settings: settingsSchema.parse(row.settings),
  uses: row.uses,
  usedAt: row.usedAt?.toISOString() ?? null,
});

export async function listMacros({ db, person }: Context): Promise<MacroShape[]> {
  const rows = await db.orm
    .select()
    .from(macroTable)
    .where(and(eq(macroTable.person, person), isNull(macroTable.deletedAt)))
    .orderBy(asc(macroTable.position), asc(macroTable.id));
  return rows.map(shapeOf);
}

export async function createMacro(context: Context, body: z.infer<typeof newMacro>): Promise<MacroShape> {
  const { db, person } = context;
  const position = raw`(select coalesce(max(position), 0) + 1 from macro where person = ${person})`;
  const [row] = await db.orm
    .insert(macroTable)
    .values({ person, ...body, position })
    .returning();
  await tellOfSettings(db.sql, context);
  return shapeOf(row!);
}

/** Puts a macro at that place of the list; the others keep their order. */
async function place(context: Context, id: number, position: number): Promise<void> {
  const { db, person } = context;
  const others = (await listMacros(context)).map((macro) => macro.id).filter((other) => other !== id);
  others.splice(position, 0, id);
  await db.sql`
    update macro m set position = o.n from unnest(${others}::int[]) with ordinality as o(id, n)
    where m.person = ${person} and m.id = o.id`;
}

/** Changes a macro. `deleted` takes it away, and brings it back with the keys it had. */
export async function changeMacro(context: Context, id: number, body: z.infer<typeof macroPatch>): Promise<MacroShape> {
  const { db, person } = context;
  const { deleted, position, ...fields } = body;
  const set = { ...fields, ...(deleted === undefined ? {} : { deletedAt: deleted ? new Date() : null }) };
  const where = and(eq(macroTable.person, person), eq(macroTable.id, id));
  const [old] = await db.orm.select().from(macroTable).where(where);
  if (!old) throw notFound("macro", id);
  if (position !== undefined) await place(context, id, position);
  const [row] =
    Object.keys(set).length > 0
      ? await db.orm.update(macroTable).set(set).where(where).returning()
      : await db.orm.select().from(macroTable).where(where);
  if (fields.name !== undefined && fields.name !== old.name)
    await followRenaming(context, { what: "macro", from: old.name, to: fields.name });
  await tellOfSettings(db.sql, context);
  return shapeOf(row!);
}

export async function deleteMacro(context: Context, id: number): Promise<void> {
  await changeMacro(context, id, { deleted: true });
}

export async function listDecks({ db, person }: Context): Promise<Deck[]> {
  const rows = await db.orm.select().from(deckTable).where(eq(deckTable.person, person)).orderBy(asc(deckTable.number));
  return rows.map(({ number, name, pads, extra, swipes }) => ({ number, name, pads, extra, swipes }) as Deck);
}

export async function createDeck(context: Context, body: z.infer<typeof newDeck>): Promise<Deck> {
  const { db, person } = context;
  const deck = { pads: [], extra: [], swipes: {}, ...body };
  const made = await db.orm
    .insert(deckTable)
    .values({ person, ...deck })
    .onConflictDoNothing()
    .returning();
  if (made.length === 0)
    throw new Refusal(409, "There is one", `Deck ${body.number} is there already; change it instead.`);
  await tellOfSettings(db.sql, context);
  return deck;
}

export async function changeDeck(context: Context, number: number, body: z.infer<typeof deckPatch>): Promise<Deck> {
  const { db, person } = context;
  if (number < 1 || number > 9) throw notFound("deck", number);
  // A deck nobody has touched yet is empty, and comes to be when it is first changed.
  const fresh = { person, number, name: `Deck ${number}`, pads: [], extra: [], swipes: {} };
  await db.orm
    .insert(deckTable)
    .values({ ...fresh, ...body })
    .onConflictDoUpdate({
      target: [deckTable.person, deckTable.number],
      set: Object.keys(body).length > 0 ? body : { number },
    });
  await tellOfSettings(db.sql, context);
  return (await listDecks(context)).find((deck) => deck.number === number)!;
}

export async function deleteDeck(context: Context, number: number): Promise<void> {
  const { db, person } = context;
  const gone = await db.orm
    .delete(deckTable)
    .where(and(eq(deckTable.person, person), eq(deckTable.number, number)))
    .returning();
  if (gone.length === 0) throw notFound("deck", number);
  await tellOfSettings(db.sql, context);
}
