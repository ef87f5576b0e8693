import {
  changeOf,
  PLAIN_EVENT,
  PLAIN_TASK,
  type Calendar,
  type CalendarEvent,
  type Task,
  type ThingEdit,
} from "@/core/change";
import { personId, type PersonId } from "@/core/id";
import { docOfText, isAddress } from "@/core/letter";
import type { Colour } from "@/core/place";
import {
  deckTable,
  folderTable,
  identityTable,
  labelTable,
  macroTable,
  markerTable,
  ormOn,
  personTable,
  templateTable,
  type Database,
  type Transaction,
  become,
} from "../db";
import { newUid, settleNames } from "../run";
import { reserve, writeChange } from "../store";
import { createBatch } from "./batches";
import {
  STARTER_BATCHES,
  STARTER_CALENDAR,
  STARTER_FOLDERS,
  STARTER_LABELS,
  STARTER_MARKERS,
  STARTER_MORE,
  STARTER_PADS,
  STARTER_PLACES,
  STARTER_SWIPES,
  STARTER_TEMPLATES,
} from "./starter";

export interface Beginning {
  readonly name: string;
  readonly address: string;
  readonly aliases: readonly string[];
  /** IANA name */
  readonly zone: string;
  readonly folders: readonly string[];
  readonly labels: readonly (readonly [name: string, colour: Colour])[];
  /** What is planned already; events say their calendar by its place, the person's first one included. */
  readonly agenda?: {
    readonly calendars: readonly Calendar[];
    readonly events: readonly (Pick<CalendarEvent, "calendar" | "title" | "start" | "length"> &
      Partial<CalendarEvent>)[];
    readonly tasks: readonly (Pick<Task, "title"> & Partial<Task>)[];
  };
}

/** Calendars and what is in them, and tasks: no entries of the ledger, since nobody did them. */
async function planned(tx: Transaction, person: PersonId, { agenda, zone }: Beginning): Promise<void> {
  const calendars: Calendar[] = [{ name: STARTER_CALENDAR, colour: "spruce" }, ...(agenda?.calendars ?? [])];
  const ids = await reserve(tx, "calendar", calendars.length);
  const events = agenda?.events ?? [];
  const tasks = agenda?.tasks ?? [];
  const eventIds = await reserve(tx, "event", events.length);
  const taskIds = await reserve(tx, "task", tasks.length);
  await writeChange(
    tx,
    person,
    changeOf(
      [],
      [
        ...calendars.map((after, i): ThingEdit => {
          return { kind: "calendar", key: String(ids[i]), about: null, before: null, after };
        }),
        ...events.map(({ calendar, ...event }, i): ThingEdit => {
          const own = event.start.length === 10 ? "" : zone;
          const after = {
            ...PLAIN_EVENT,
            zone: own,
            uid: newUid(),
            ...event,
            calendar: ids[calendar]!,
          };
          return { kind: "event", key: String(eventIds[i]), about: null, before: null, after };
        }),
        ...tasks.map((task, i): ThingEdit => {
          const after = { ...PLAIN_TASK, ...task };
          return { kind: "task", key: String(taskIds[i]), about: null, before: null, after };
        }),
      ],
    ),
  );
}

/** What belongs to the same transaction as a new person. */
interface Around<T> {
  readonly before: (tx: Transaction) => Promise<void>;
  readonly after: (tx: Transaction, person: PersonId) => Promise<T>;
}

/** Sets up a person with what everybody starts with. */
export async function addPerson<T>(db: Database, beginning: Beginning, { before, after }: Around<T>): Promise<T> {
  const { made, person } = await db.sql.begin(async (transaction) => {
    const own = transaction as Transaction;
    await before(own);
    const tx = ormOn(own);
    const { name, address, zone, aliases } = beginning;
    const [row] = await tx.insert(personTable).values({ name, address, zone, settings: { aliases } }).returning();
    const person = personId(row!.id);
    await become(own, person);
    await tx.insert(folderTable).values(STARTER_FOLDERS.map(([path, role]) => ({ person, path, role })));
    const places = [...new Set([...STARTER_PLACES, ...beginning.folders])];
    await tx.insert(folderTable).values(places.map((path) => ({ person, path })));
    const addresses = [...new Set([address, ...aliases])].filter(isAddress);
    if (addresses.length > 0)
      await tx
        .insert(identityTable)
        .values(addresses.map((one, position) => ({ person, name, address: one, position })));
    await tx.insert(templateTable).values(
      STARTER_TEMPLATES.map(({ text, ...template }, position) => ({
        person,
        ...template,
        body: docOfText(text),
        position,
      })),
    );
    const labels = [...beginning.labels, ...STARTER_LABELS];
    await tx.insert(labelTable).values(labels.map(([label, colour]) => ({ person, name: label, colour })));
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
    await planned(own, person, beginning);
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
      { person, number: 2, name: "Answers and marks", pads: padsOf(STARTER_MORE), extra: [], swipes },
    ]);
    await settleNames(own, person);
    return { made: await after(own, person), person };
  });
  const context = { db: db.as(person), person, zone: beginning.zone };
  for (const batch of STARTER_BATCHES) await createBatch(context, { ...batch });
  return made;
}

const NOTHING = async (): Promise<void> => {};

/** Sets up the first person; does nothing when there is one. */
export async function begin(db: Database, beginning: Beginning): Promise<{ person: PersonId; isNew: boolean }> {
  const [found] = await db.sql<{ id: number }[]>`select id from person order by id limit 1`;
  if (found) return { person: personId(found.id), isNew: false };
  const person = await addPerson(db, beginning, { before: NOTHING, after: async (_, made) => made });
  return { person, isNew: true };
}
