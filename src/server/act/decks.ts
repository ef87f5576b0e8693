import { and, asc, eq } from "drizzle-orm";
import type { z } from "zod";
import { MOST_EXTRA_KEYS, type deckPatch, type deckShape, type newDeck } from "@/core/api";
import type { PersonId } from "@/core/id";
import { changedDeck, frameOf, keyProblem, keyProblemText } from "@/core/keys";
import { deckTable, ormOn, type Queryable } from "../db";
import { inTurn, notFound, readSettings, Refusal } from "../run";
import { tell } from "../store";
import type { Context } from "./context";

type Deck = z.infer<typeof deckShape>;

export async function readDecks(sql: Queryable, person: PersonId): Promise<Deck[]> {
  const rows = await ormOn(sql)
    .select()
    .from(deckTable)
    .where(eq(deckTable.person, person))
    .orderBy(asc(deckTable.number));
  return rows.map(({ number, name, pads, extra, swipes }) => ({ number, name, pads, extra, swipes }) as Deck);
}

/** @throws Refusal for keys that no macro can be on */
async function checkKeys(sql: Queryable, person: PersonId, extra: readonly { readonly keys: string }[]): Promise<void> {
  if (extra.length === 0) return;
  const frame = frameOf((await readSettings(sql, person)).frame);
  for (const { keys } of extra) {
    const problem = keyProblem(keys, frame);
    if (problem) throw new Refusal(422, "Not a key for a macro", `${keys}: ${keyProblemText[problem]}.`);
  }
}

export const listDecks = ({ db, person }: Context): Promise<Deck[]> => readDecks(db.sql, person);

export async function createDeck({ db, person }: Context, body: z.infer<typeof newDeck>): Promise<Deck> {
  const deck = { pads: [], extra: [], swipes: {}, ...body };
  await checkKeys(db.sql, person, deck.extra);
  return inTurn(db, person, async (tx) => {
    const made = await ormOn(tx)
      .insert(deckTable)
      .values({ person, ...deck })
      .onConflictDoNothing()
      .returning();
    if (made.length === 0)
      throw new Refusal(409, "There is one", `Deck ${body.number} is there already; change it instead.`);
    await tell(tx, person, "settings");
    return deck;
  });
}

export async function changeDeck(
  { db, person }: Context,
  number: number,
  body: z.infer<typeof deckPatch>,
): Promise<Deck> {
  if (number < 1 || number > 9) throw notFound("deck", number);
  const { change = {}, ...whole } = body;
  const given = [...(body.extra ?? []), ...(change.extra ?? [])].filter(({ macro }) => macro !== null);
  await checkKeys(db.sql, person, given);
  return inTurn(db, person, async (tx) => {
    // A deck nobody has touched yet is empty, and comes to be when it is first changed.
    const fresh = { number, name: `Deck ${number}`, pads: [], extra: [], swipes: {} } as Deck;
    const now = (await readDecks(tx, person)).find((deck) => deck.number === number) ?? fresh;
    const deck = changedDeck({ ...now, ...whole }, change);
    if (deck.extra.length > MOST_EXTRA_KEYS)
      throw new Refusal(422, "Too many keys", `A deck has ${MOST_EXTRA_KEYS} keys beside its pads at most; free one.`);
    const { name, pads, extra, swipes } = deck;
    const values = { name, pads: [...pads], extra: [...extra], swipes };
    await ormOn(tx)
      .insert(deckTable)
      .values({ person, number, ...values })
      .onConflictDoUpdate({ target: [deckTable.person, deckTable.number], set: values });
    await tell(tx, person, "settings");
    return { number: fresh.number, ...values };
  });
}

export async function deleteDeck({ db, person }: Context, number: number): Promise<void> {
  if (number < 1 || number > 9) throw notFound("deck", number);
  await inTurn(db, person, async (tx) => {
    const gone = await ormOn(tx)
      .delete(deckTable)
      .where(and(eq(deckTable.person, person), eq(deckTable.number, number)))
      .returning();
    if (gone.length === 0) throw notFound("deck", number);
    await tell(tx, person, "settings");
  });
}
