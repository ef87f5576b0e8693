import type { z } from "zod";
import type { settingsPatch, settingsShape } from "@/core/api";
import { forgetEntries } from "../store";
import type { Context } from "./context";
import { tellOfSettings } from "./directory";

type Settings = z.infer<typeof settingsShape>;

const DAY_MS = 86_400_000;
/** How long trash and junk keep a message where the person has not said. */
const KEPT_DAYS = 30;

export async function readSettings({ db, person }: Context): Promise<Settings> {
  const [row] = await db.sql<{ settings: Partial<Settings> }[]>`select settings from person where id = ${person}`;
  const { ledgerDays = null, trashDays = KEPT_DAYS, junkDays = KEPT_DAYS } = row?.settings ?? {};
  return { ledgerDays, trashDays, junkDays };
}

export async function changeSettings(context: Context, body: z.infer<typeof settingsPatch>): Promise<Settings> {
  const { db, person } = context;
  await db.sql`update person set settings = settings || ${JSON.stringify(body)}::text::jsonb where id = ${person}`;
  await tellOfSettings(db.sql, context);
  return readSettings(context);
}

/** Forgets runs older than the person keeps them. @returns how many entries */
export async function keepLedger(context: Context, now: Date): Promise<number> {
  const { ledgerDays } = await readSettings(context);
  if (ledgerDays === null) return 0;
  return forgetEntries(context.db.sql, context.person, new Date(now.getTime() - ledgerDays * DAY_MS));
}
