import type { z } from "zod";
import type { HoursAnswer, HoursShape, hoursPatch, newHours } from "@/core/api";
import { loadNarrow, storeNarrow, type IdOf, type NameOf, type StoredNarrow } from "@/core/narrow";
import { partsOf, weekOf, type Week } from "@/core/when";
import type { Queryable, Transaction } from "../db";
import { inTurn, letInNow, notFound, readNames, Refusal, waitAnew, waitingForHours } from "../run";
import { tell } from "../store";
import type { Context } from "./context";
import { readTest } from "./messages";

/** Hours of the week in which mail is let in; outside them it waits. */

const MOST_HOURS = 50;

interface Row {
  readonly id: number;
  readonly narrow: StoredNarrow;
  readonly through: StoredNarrow | null;
  readonly week: Week;
  readonly on: boolean;
}

async function readHours(sql: Queryable, { person }: Context, nameOf: NameOf): Promise<HoursShape[]> {
  const rows = await sql<Row[]>`
    select id, narrow, through, week, is_on as on from hours
    where person = ${person} and deleted_at is null order by id`;
  return rows.map(({ narrow, through, week, ...row }) => ({
    ...row,
    narrow: loadNarrow(narrow, nameOf),
    through: through === null ? null : loadNarrow(through, nameOf),
    week: [...week],
  }));
}

export async function listHours(context: Context): Promise<HoursAnswer> {
  const { sql } = context.db;
  const { nameOf } = await readNames(sql, context.person);
  return { hours: await readHours(sql, context, nameOf), ...(await waitingForHours(sql, context)) };
}

/** @throws Refusal where a condition cannot be read */
async function check(context: Context, { narrow, through }: z.infer<typeof hoursPatch>): Promise<void> {
  for (const one of [narrow, through]) if (typeof one === "string") await readTest(context, one);
}

/** As they are stored: conditions by id, stretches in their order and those that touch as one. */
const stored = ({ narrow, through, week }: Omit<HoursShape, "id" | "on">, idOf: IdOf) => ({
  narrow: JSON.stringify(storeNarrow(narrow, idOf)),
  through: through === null ? null : JSON.stringify(storeNarrow(through, idOf)),
  week: JSON.stringify(weekOf(partsOf(week))),
});

async function written(tx: Transaction, context: Context, id: number, nameOf: NameOf): Promise<HoursShape> {
  const found = (await readHours(tx, context, nameOf)).find((one) => one.id === id);
  if (!found) throw notFound("hours", id);
  await waitAnew(tx, context, new Date());
  await tell(tx, context.person, "settings");
  return found;
}

export async function createHours(context: Context, body: z.infer<typeof newHours>): Promise<HoursShape> {
  await check(context, body);
  return inTurn(context.db, context.person, async (tx) => {
    const { person } = context;
    const { idOf, nameOf } = await readNames(tx, person);
    if ((await readHours(tx, context, nameOf)).length >= MOST_HOURS)
      throw new Refusal(422, "Too many hours", `There are ${MOST_HOURS} already. Delete some first.`);
    const { narrow, through, week } = stored(body, idOf);
    const [row] = await tx<{ id: number }[]>`
      insert into hours (person, narrow, through, week, is_on)
      values (${person}, ${narrow}::text::jsonb, ${through}::text::jsonb, ${week}::text::jsonb, ${body.on}) returning id`;
    return written(tx, context, row!.id, nameOf);
  });
}

/** What waits already does so by the new hours from now on. */
export async function changeHours(context: Context, id: number, body: z.infer<typeof hoursPatch>): Promise<HoursShape> {
  await check(context, body);
  return inTurn(context.db, context.person, async (tx) => {
    const { person } = context;
    const { idOf, nameOf } = await readNames(tx, person);
    if (body.deleted === false) await tx`update hours set deleted_at = null where person = ${person} and id = ${id}`;
    const before = (await readHours(tx, context, nameOf)).find((one) => one.id === id);
    if (!before) throw notFound("hours", id);
    const next = { ...before, ...body };
    const { narrow, through, week } = stored(next, idOf);
    await tx`
      update hours set narrow = ${narrow}::text::jsonb, through = ${through}::text::jsonb, week = ${week}::text::jsonb,
        is_on = ${next.on}
      where person = ${person} and id = ${id}`;
    return written(tx, context, id, nameOf);
  });
}

export async function deleteHours(context: Context, id: number): Promise<void> {
  const { db, person } = context;
  await inTurn(db, person, async (tx) => {
    const gone = await tx`
      update hours set deleted_at = now() where person = ${person} and id = ${id} and deleted_at is null`;
    if (gone.count === 0) throw notFound("hours", id);
    await waitAnew(tx, context, new Date());
    await tell(tx, person, "settings");
  });
}

/** Lets in what waits, at once. */
export const letIn = (context: Context): Promise<{ messages: number }> =>
  inTurn(context.db, context.person, async (tx) => ({ messages: await letInNow(tx, context) }));
