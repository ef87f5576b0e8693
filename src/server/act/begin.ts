import { personId, type PersonId } from "@/core/id";
import type { Colour } from "@/core/place";
import {
  deckTable,
  folderTable,
  labelTable,
  macroTable,
  markerTable,
  ormOn,
  personTable,
  type Database,
  type Transaction,
} from "../db";
import { settleNames } from "../run";
import { STARTER_FOLDERS, STARTER_MARKERS, STARTER_MORE, STARTER_PADS, STARTER_SWIPES } from "./starter";

export interface Beginning {
  readonly name: string;
  readonly address: string;
  readonly aliases: readonly string[];
  /** IANA name */
  readonly zone: string;
  readonly folders: readonly string[];
  readonly labels: readonly (readonly [name: string, colour: Colour])[];
}

/** Sets up the first person with what everybody starts with; does nothing when there is one. */
export async function begin({ sql }: Database, beginning: Beginning): Promise<{ person: PersonId; isNew: boolean }> {
  const [found] = await sql<{ id: number }[]>`select id from person order by id limit 1`;
  if (found) return { person: personId(found.id), isNew: false };
  return sql.begin(async (transaction) => {
    const own = transaction as Transaction;
    const tx = ormOn(own);
    const { name, address, zone, aliases } = beginning;
    const [made] = await tx.insert(personTable).values({ name, address, zone, settings: { aliases } }).returning();
    const person = personId(made!.id);
    await tx.insert(folderTable).values(STARTER_FOLDERS.map(([path, role]) => ({ person, path, role })));
    if (beginning.folders.length > 0)
      await tx.insert(folderTable).values(beginning.folders.map((path) => ({ person, path })));
    if (beginning.labels.length > 0)
      await tx.insert(labelTable).values(beginning.labels.map(([label, colour]) => ({ person, name: label, colour })));
    await tx.insert(markerTable).values(
      STARTER_MARKERS.map(([letter, colour, meaning], i) => ({
        person,
        id: i + 1,
        letter,
        colour,
        meaning,
        position: i,
      })),
    );
    const macros = await tx
      .insert(macroTable)
      .values(
        [...STARTER_PADS, ...STARTER_MORE].map((pad, position) => ({
          person,
          name: pad.name,
          colour: pad.colour,
          steps: pad.steps,
          settings: pad.settings,
          position,
        })),
      )
      .returning();
    const byName = new Map(macros.map((macro) => [macro.name, macro.id]));
    const padsOf = (starters: typeof STARTER_PADS) =>
      starters.map(({ layer, code, name: macro }) => ({ layer, code, macro: byName.get(macro)! }));
    const swipes = Object.fromEntries(STARTER_SWIPES.map(([swipe, macro]) => [swipe, byName.get(macro)!]));
    await tx.insert(deckTable).values([
      { person, number: 1, name: "Front desk", pads: padsOf(STARTER_PADS), extra: [], swipes },
      { person, number: 2, name: "Marks", pads: padsOf(STARTER_MORE), extra: [], swipes },
    ]);
    await settleNames(own, person);
    return { person, isNew: true };
  }) as Promise<{ person: PersonId; isNew: boolean }>;
}
