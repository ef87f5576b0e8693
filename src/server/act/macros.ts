import type { z } from "zod";
import type { MacroShape, macroPatch, newMacro } from "@/core/api";
import type { PersonId } from "@/core/id";
import { loadSettings, loadSteps, storeSettings, storeSteps } from "@/core/macro";
import type { NameOf } from "@/core/narrow";
import type { Colour } from "@/core/place";
import type { Queryable } from "../db";
import { inTurn, notFound, readNames, settleNames } from "../run";
import { inMs, tell } from "../store";
import type { Context } from "./context";
import { placeAt } from "./order";
import { orTaken } from "./taken";

interface Row {
  readonly id: number;
  readonly name: string;
  readonly colour: Colour;
  readonly steps: unknown;
  readonly settings: unknown;
  readonly uses: number;
  readonly used_ms: number | null;
}

const COLUMNS = `id, name, colour, steps, settings, uses, ${inMs("used_at")} as used_ms`;

const shapeOf = ({ used_ms, ...row }: Row, nameOf: NameOf): MacroShape => ({
  ...row,
  steps: loadSteps(row.steps, nameOf),
  settings: loadSettings(row.settings, nameOf),
  usedAt: used_ms === null ? null : new Date(used_ms).toISOString(),
});

/** @param id of one, which may be deleted; null for all that are not */
export async function readMacroShapes(sql: Queryable, person: PersonId, id: number | null): Promise<MacroShape[]> {
  const { nameOf } = await readNames(sql, person);
  const rows = await sql<Row[]>`
    select ${sql.unsafe(COLUMNS)} from macro
    where person = ${person} and ${id === null ? sql`deleted_at is null` : sql`id = ${id}`} order by position, id`;
  return rows.map((row) => shapeOf(row, nameOf));
}

export const listMacros = ({ db, person }: Context): Promise<MacroShape[]> => readMacroShapes(db.sql, person, null);

export async function createMacro({ db, person }: Context, body: z.infer<typeof newMacro>): Promise<MacroShape> {
  return inTurn(db, person, async (tx) => {
    const { idOf } = await readNames(tx, person);
    const [row] = await orTaken(
      "macro",
      body.name,
      () => tx<{ id: number }[]>`
        insert into macro (person, name, colour, steps, settings, position)
        values (${person}, ${body.name}, ${body.colour}, ${JSON.stringify(storeSteps(body.steps, idOf))}::text::jsonb,
          ${JSON.stringify(storeSettings(body.settings, idOf))}::text::jsonb,
          (select coalesce(max(position), 0) + 1 from macro where person = ${person}))
        returning id`,
    );
    await settleNames(tx, person);
    await tell(tx, person, "settings");
    return (await readMacroShapes(tx, person, row!.id))[0]!;
  });
}

/** Changes a macro. `deleted` takes it away, and brings it back with the keys it had. */
export async function changeMacro(
  { db, person }: Context,
  id: number,
  body: z.infer<typeof macroPatch>,
): Promise<MacroShape> {
  return inTurn(db, person, async (tx) => {
    // What still stands as a name is given its id first, so that a new name is followed there too.
    await settleNames(tx, person);
    const { idOf } = await readNames(tx, person);
    const [old] = await readMacroShapes(tx, person, id);
    if (!old) throw notFound("macro", id);
    const { deleted, position, ...fields } = body;
    const next = { ...old, ...fields };
    await orTaken(
      "macro",
      next.name,
      () => tx`
        update macro set name = ${next.name}, colour = ${next.colour},
          steps = ${JSON.stringify(storeSteps(next.steps, idOf))}::text::jsonb,
          settings = ${JSON.stringify(storeSettings(next.settings, idOf))}::text::jsonb,
          deleted_at = case when ${deleted ?? null}::boolean is null then deleted_at when ${deleted ?? false} then now() end
        where person = ${person} and id = ${id}`,
    );
    if (position !== undefined) await placeAt(tx, "macro", person, id, position);
    await tell(tx, person, "settings");
    return (await readMacroShapes(tx, person, id))[0]!;
  });
}

export async function deleteMacro(context: Context, id: number): Promise<void> {
  await changeMacro(context, id, { deleted: true });
}
