import { and, eq } from "drizzle-orm";
import { renameInFor, renameInSteps, settingsSchema, stepsSchema, type Renaming } from "@/core/macro";
import { macroTable } from "../db";
import type { Context } from "./context";

/** Macros name folders, labels, markers and each other as people do; a renamed one is followed. */
export async function followInMacros({ db, person }: Context, renaming: Renaming): Promise<void> {
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
