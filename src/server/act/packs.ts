import { and, eq } from "drizzle-orm";
import type { z } from "zod";
import type { PackAnswer, packRequest } from "@/core/api";
import type { Deck } from "@/core/keys";
import { makePack, readPack, takePack, type Pack, type Taking } from "@/core/pack";
import { deckTable, folderTable, labelTable, macroTable, markerTable } from "../db";
import { notFound, Refusal, type Context } from "./context";
import { readDirectory, tellOfSettings } from "./directory";
import { listDecks, listMacros } from "./macros";

const MOST_MARKERS = 8;

async function readHere(context: Context) {
  const [directory, macros, decks] = await Promise.all([
    readDirectory(context),
    listMacros(context),
    listDecks(context),
  ]);
  return { directory, macros, decks: decks as Deck[] };
}

/** @param ids of macros; none means all */
export async function exportPack(context: Context, name: string, ids: readonly number[]): Promise<Pack> {
  const { directory, macros, decks } = await readHere(context);
  const chosen = ids.length === 0 ? macros : macros.filter((macro) => ids.includes(macro.id));
  if (ids.length > 0 && chosen.length === 0) throw notFound("macro", ids.join(", "));
  return makePack(name, chosen, macros, decks, directory);
}

const answerOf = (taking: Taking): PackAnswer => ({
  macros: taking.macros.map(({ name, replaces }) => ({ name, replaces })),
  folders: [...taking.folders],
  labels: taking.labels.map((label) => label.name),
  markers: taking.markers.map((marker) => marker.letter),
  keys: taking.pads.length + taking.extra.length + taking.swipes.length,
  clashes: [...taking.clashes],
  missingFolders: [...taking.missingFolders],
  takenKeys: [...taking.takenKeys],
});

async function write({ db, person }: Context, taking: Taking, decks: readonly Deck[]): Promise<void> {
  await db.orm.transaction(async (tx) => {
    if (taking.folders.length > 0)
      await tx.insert(folderTable).values(taking.folders.map((path) => ({ person, path })));
    if (taking.labels.length > 0) await tx.insert(labelTable).values(taking.labels.map((l) => ({ person, ...l })));
    const markers = await tx.select().from(markerTable).where(eq(markerTable.person, person));
    const free = Array.from({ length: MOST_MARKERS }, (_, i) => i + 1).filter((n) => !markers.some((m) => m.id === n));
    if (taking.markers.length > free.length)
      throw new Refusal(
        409,
        "No more markers",
        `The pack brings ${taking.markers.length} markers; ${free.length} more can be had. Delete some first.`,
      );
    for (const [i, marker] of taking.markers.entries())
      await tx.insert(markerTable).values({ person, id: free[i]!, position: markers.length + i, ...marker });
    const ids = new Map<string, number>();
    for (const { replaces, ...macro } of taking.macros) {
      const where = and(eq(macroTable.person, person), eq(macroTable.id, replaces ?? 0));
      const [row] =
        replaces === null
          ? await tx
              .insert(macroTable)
              .values({ person, ...macro, position: 10_000 })
              .returning()
          : await tx.update(macroTable).set(macro).where(where).returning();
      ids.set(macro.name, row!.id);
    }
    for (const number of new Set([...taking.pads, ...taking.extra, ...taking.swipes].map((key) => key.deck))) {
      const there = decks.find((deck) => deck.number === number);
      const own = taking.pads.filter((pad) => pad.deck === number);
      const pads = [
        ...(there?.pads ?? []),
        ...own.map(({ layer, code, macro }) => ({ layer, code, macro: ids.get(macro)! })),
      ];
      const extra = [
        ...(there?.extra ?? []),
        ...taking.extra.filter((e) => e.deck === number).map(({ keys, macro }) => ({ keys, macro: ids.get(macro)! })),
      ];
      const swipes = {
        ...there?.swipes,
        ...Object.fromEntries(
          taking.swipes.filter((s) => s.deck === number).map(({ swipe, macro }) => [swipe, ids.get(macro)!]),
        ),
      };
      await tx
        .insert(deckTable)
        .values({ person, number, name: there?.name ?? `Deck ${number}`, pads, extra, swipes })
        .onConflictDoUpdate({ target: [deckTable.person, deckTable.number], set: { pads, extra, swipes } });
    }
  });
}

/** Takes a pack in as one transaction, or says what that would do. */
export async function importPack(context: Context, body: z.infer<typeof packRequest>): Promise<PackAnswer> {
  const read = readPack(body.pack);
  if (!read.ok) throw new Refusal(422, "Not a macro pack", read.why);
  const here = await readHere(context);
  const taking = takePack(read.pack, here, body.choices);
  if (!body.dry) {
    await write(context, taking, here.decks);
    await tellOfSettings(context.db.sql, context);
  }
  return answerOf(taking);
}
