import { and, eq } from "drizzle-orm";
import { renameInFor, renameInSteps, settingsSchema, stepsSchema, type Renaming } from "@/core/macro";
import { batchTable, macroTable } from "../db";
import type { Context } from "./context";

/** Batches hold narrowings, which name folders, labels and markers too. */
async function followInBatches({ db, person }: Context, renaming: Renaming): Promise<void> {
  const batches = await db.orm.select().from(batchTable).where(eq(batchTable.person, person));
  for (const { id, narrow } of batches) {
    const next = renameInFor(narrow, renaming);
    if (next === undefined || next === narrow) continue;
    await db.orm
      .update(batchTable)
      .set({ narrow: next })
      .where(and(eq(batchTable.person, person), eq(batchTable.id, id)));
  }
}

/** Macros and batches name folders, labels, markers and each other as people do; a renamed one is followed. */
export async function followRenaming(context: Context, renaming: Renaming): Promise<void> {
  await followInMacros(context, renaming);
  await followInBatches(context, renaming);
}

async function followInMacros({ db, person }: Context, renaming: Renaming): Promise<void> {
  const macros = await db.orm.select().from(macroTable).where(eq(macroTable.person, person));
  for (const macro of macros) {
    const steps = stepsSchema.parse(macro.steps);
    const settings = settingsSchema.parse(macro.settings);
    const next = renameInSteps(steps, renaming);
    const which = renameInFor(settings.for, renaming);
    if (next === steps && which === settings.for) continue;
    await db.orm
      .update(macroTable)
      .set({ steps: next, settings: which === undefined ? settings : { ...settings, for: which } })
      .where(and(eq(macroTable.person, person), eq(macroTable.id, macro.id)));
  }
}
