import { plural } from "@/core/text";
import type { z } from "zod";
import type { markerPatch, newMarker } from "@/core/api";
import type { PersonId } from "@/core/id";
import { MOST_MARKERS } from "@/core/place";
import type { Transaction } from "../db";
import { inTurn, notFound, readDirectory, Refusal, settleNames } from "../run";
import { listOf, tell } from "../store";
import type { Context } from "./context";
import { orTaken } from "./taken";
import { bringBack, takenOut, takeOut } from "./taken-out";

/**
 * Numbers that no marker has yet, the smallest first: a message holds its marker in two bytes. Those of markers that can
 * be brought back are given away last, as macros may mean them.
 */
export async function freeMarkers(
  tx: Transaction,
  person: PersonId,
  taken: readonly { readonly id: number }[],
): Promise<number[]> {
  const kept = await takenOut(tx, "marker", person);
  return Array.from({ length: MOST_MARKERS }, (_, i) => i + 1)
    .filter((n) => !taken.some((m) => m.id === n))
    .sort((a, b) => kept.indexOf(a) - kept.indexOf(b) || a - b);
}

export const listMarkers = async ({ db, person }: Context) => (await readDirectory(db.sql, person)).markers;

export async function createMarker({ db, person }: Context, body: z.infer<typeof newMarker>) {
  return inTurn(db, person, async (tx) => {
    const { markers } = await readDirectory(tx, person);
    const [free] = await freeMarkers(tx, person, markers);
    if (free === undefined)
      throw new Refusal(
        409,
        "No more markers",
        `There are ${MOST_MARKERS} markers already, which is all there can be.`,
      );
    await orTaken(
      "marker",
      body.letter,
      () => tx`
        insert into marker (person, id, position, letter, colour, meaning)
        values (${person}, ${free}, ${markers.length}, ${body.letter}, ${body.colour}, ${body.meaning})`,
    );
    await settleNames(tx, person);
    await tell(tx, person, "settings");
    return { id: free, used: true, ...body };
  });
}

/** Puts a marker at that place of the order; the others keep theirs. */
async function place(tx: Transaction, person: PersonId, id: number, position: number): Promise<void> {
  const others = (await readDirectory(tx, person)).markers.map((marker): number => marker.id).filter((m) => m !== id);
  others.splice(position, 0, id);
  await tx`
    update marker m set position = o.n - 1 from unnest(${listOf(others)}::text::int[]) with ordinality as o(id, n)
    where m.person = ${person} and m.id = o.id`;
}

export async function changeMarker({ db, person }: Context, id: number, body: z.infer<typeof markerPatch>) {
  return inTurn(db, person, async (tx) => {
    if (body.deleted === false) await bringBack(tx, "marker", person, id);
    const old = (await readDirectory(tx, person)).markers.find((marker) => marker.id === id);
    if (!old) throw notFound("marker", id);
    const { position, deleted: _, ...fields } = body;
    await settleNames(tx, person);
    const next = { ...old, ...fields };
    await orTaken(
      "marker",
      next.letter,
      () => tx`
        update marker set letter = ${next.letter}, colour = ${next.colour}, meaning = ${next.meaning}, used = ${next.used}
        where person = ${person} and id = ${id}`,
    );
    if (position !== undefined) await place(tx, person, id, position);
    await tell(tx, person, "settings");
    return next;
  });
}

export async function deleteMarker({ db, person }: Context, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const [used] = await tx<{ n: number }[]>`
      select count(*)::int as n from message_state where person = ${person} and marker = ${id}`;
    if (used && used.n > 0)
      throw new Refusal(
        409,
        "Still in use",
        `${plural(used.n, "message")} ${used.n === 1 ? "carries" : "carry"} this marker. Clear it from them first, then delete it.`,
      );
    if (!(await takeOut(tx, "marker", person, id))) throw notFound("marker", id);
    await tell(tx, person, "settings");
  });
}
