import type { z } from "zod";
import type { declineRequest, FoundShape } from "@/core/api";
import { folderId, messageId } from "@/core/id";
import { abilitiesOf } from "@/core/macro";
import { foundMacros, foundRules, LEAST_MESSAGES, sequenceKey, whyAttended } from "@/core/rule";
import { readMacros, readNames } from "../run";
import type { Context } from "./context";
import { listRules } from "./rules";

/** What recurs by hand and might be a rule or a macro: offered with what speaks for it, never made. */

/** Nobody reads more. */
const MOST_OFFERED = 12;

export async function listFound(context: Context): Promise<FoundShape> {
  const { db, person } = context;
  const { sql } = db;
  const { directory, nameOf } = await readNames(sql, person);
  const macros = await readMacros(sql, person, nameOf);
  const [habits, sequences, declined, rules] = await Promise.all([
    sql<{ narrow: string; folder: number; macro: number; messages: number; last: number }[]>`
      select narrow, folder, macro, messages, last from habit where person = ${person} and narrow in (
        select narrow from habit where person = ${person} group by narrow having sum(messages) >= ${LEAST_MESSAGES})`,
    sql<{ macros: string; times: number }[]>`select macros, times from habit_sequence where person = ${person}`,
    sql<{ what: string }[]>`select what from habit_declined where person = ${person}`,
    listRules(context),
  ]);
  const known = new Set([...declined.map(({ what }) => what), ...rules.map(({ narrow }) => narrow)]);
  // A rule can only do what nobody has to be there for; another one is made that files there.
  const unattended = new Set(
    macros.filter((macro) => whyAttended(abilitiesOf(macro, macros)) === null && macro.id !== null).map(({ id }) => id),
  );
  const found = foundRules(
    habits.map(({ folder, macro, last, ...rest }) => ({
      ...rest,
      folder: folderId(folder),
      macro: unattended.has(macro) ? macro : null,
      last: messageId(last),
    })),
    known,
  );
  return {
    rules: found.slice(0, MOST_OFFERED).flatMap(({ folder, ...rest }) => {
      const path = directory.folders.find(({ id }) => id === folder)?.path;
      return path === undefined ? [] : [{ ...rest, folder: path }];
    }),
    macros: foundMacros(
      sequences.map(({ macros: some, times }) => ({ macros: some.split(" ").map(Number), times })),
      macros.flatMap(({ id, steps }) => (id === null ? [] : [{ id, steps }])),
      known,
    )
      .slice(0, MOST_OFFERED)
      .map(({ steps, ...rest }) => ({ ...rest, macros: [...rest.macros], steps: [...steps] })),
  };
}

/** What is declined is not offered again, unless that is taken back. */
export async function decline(context: Context, body: z.infer<typeof declineRequest>): Promise<void> {
  const { db, person } = context;
  const what = "narrow" in body ? body.narrow : sequenceKey(body.macros);
  if (body.declined)
    await db.sql`insert into habit_declined (person, what) values (${person}, ${what}) on conflict do nothing`;
  else await db.sql`delete from habit_declined where person = ${person} and what = ${what}`;
}
