import type { z } from "zod";
import type { settingsPatch } from "@/core/api";
import type { PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { inTurn, readSettings as readSettingsOf, type Settings } from "../run";
import { tell } from "../store";
import type { Context } from "./context";

export const readSettings = ({ db, person }: Context): Promise<Settings> => readSettingsOf(db.sql, person);

export const changeSettings = (context: Context, body: z.infer<typeof settingsPatch>): Promise<Settings> =>
  writeSettings(context, body);

/** The same for what no request may say. */
export const writeSettings = ({ db, person }: Context, body: Partial<Settings>): Promise<Settings> =>
  inTurn(db, person, (tx) => setIn(tx, person, body));

/** The same in a turn that is taken already. */
export async function setIn(tx: Transaction, person: PersonId, body: Partial<Settings>): Promise<Settings> {
  await tx`update person set settings = settings || ${JSON.stringify(body)}::text::jsonb where id = ${person}`;
  await tell(tx, person, "settings");
  return readSettingsOf(tx, person);
}
