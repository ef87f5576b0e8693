import type { z } from "zod";
import type { labelPatch, newLabel } from "@/core/api";
import { inTurn, notFound, readDirectory, settleNames } from "../run";
import { tell } from "../store";
import type { Context } from "./context";
import { cleanPath, orTaken } from "./taken";
import { setGone } from "./unmake";

export const listLabels = async ({ db, person }: Context) => (await readDirectory(db.sql, person)).labels;

export async function createLabel({ db, person }: Context, body: z.infer<typeof newLabel>) {
  const name = cleanPath(body.name);
  const id = await inTurn(db, person, async (tx) => {
    const [row] = await orTaken(
      "label",
      name,
      () => tx<{ id: number }[]>`
        insert into label (person, name, colour) values (${person}, ${name}, ${body.colour}) returning id`,
    );
    await settleNames(tx, person);
    await tell(tx, person, "settings");
    return row!.id;
  });
  return { id, name, colour: body.colour };
}

/** Changes a label; one that has just been made is taken back, or made again. */
export async function changeLabel(context: Context, id: number, { deleted, ...body }: z.infer<typeof labelPatch>) {
  const { db, person } = context;
  const before = deleted === true ? (await listLabels(context)).find((label) => label.id === id) : undefined;
  if (deleted !== undefined) await setGone(context, "label", id, deleted);
  if (before) return before;
  return inTurn(db, person, async (tx) => {
    const old = (await readDirectory(tx, person)).labels.find((label) => label.id === id);
    if (!old) throw notFound("label", id);
    await settleNames(tx, person);
    const next = { name: body.name === undefined ? old.name : cleanPath(body.name), colour: body.colour ?? old.colour };
    await tx`update label set colour = ${next.colour} where person = ${person} and id = ${id}`;
    // Labels below it go with it.
    if (next.name !== old.name)
      await orTaken(
        "label",
        next.name,
        () => tx`
          update label set name = ${next.name}::text || substr(name, ${old.name.length + 1})
          where person = ${person} and not removed
            and (id = ${id} or left(lower(name), ${old.name.length + 1}) = lower(${`${old.name}/`}))`,
      );
    await tell(tx, person, "settings");
    return { id, ...next };
  });
}
