import type { z } from "zod";
import type { taskPatch, TaskShape } from "@/core/api";
import type { Queryable } from "../db";
import { notFound, type Context } from "./context";
import { tellOfSettings } from "./directory";

type Row = Omit<TaskShape, "due"> & { due_ms: number | null };

/** A list past this is no list any more. */
const MOST_TASKS = 2000;

const columns = (sql: Queryable) => sql`
  t.id, (select m.id from message m where m.person = t.person and m.id = t.message) as message, t.title,
  (extract(epoch from t.due) * 1000)::float8 as due_ms, t.estimate, t.about, t.done`;

const shapeOf = ({ due_ms, ...row }: Row): TaskShape => ({
  ...row,
  due: due_ms === null ? null : new Date(due_ms).toISOString(),
});

/** Open tasks first, the most pressing on top. */
export async function listTasks({ db, person }: Context): Promise<TaskShape[]> {
  const { sql } = db;
  const rows = await sql<Row[]>`
    select ${columns(sql)} from task t where person = ${person}
    order by done, due nulls last, id limit ${MOST_TASKS}`;
  return rows.map(shapeOf);
}

/** Tasks that were made from a message. */
export async function tasksOf({ db, person }: Context, message: number): Promise<TaskShape[]> {
  const { sql } = db;
  const rows = await sql<Row[]>`
    select ${columns(sql)} from task t where person = ${person} and message = ${message} order by id`;
  return rows.map(shapeOf);
}

/** How many tasks are open as of which write: one statement, so that the two belong together. */
export async function countOpenTasks({ db, person }: Context): Promise<{ seq: number; tasks: number }> {
  const [row] = await db.sql<{ seq: number; tasks: number }[]>`
    select seq, (select count(*)::int from task where person = ${person} and not done) as tasks
    from person where id = ${person}`;
  return row ?? { seq: 0, tasks: 0 };
}

export async function changeTask(context: Context, id: number, body: z.infer<typeof taskPatch>): Promise<TaskShape> {
  const { db, person } = context;
  const { sql } = db;
  const { title = null, done = null } = body;
  const [row] = await sql<Row[]>`
    update task t set title = coalesce(${title}::text, title), done = coalesce(${done}::boolean, done),
      due = case when ${body.due !== undefined} then ${body.due ?? null}::timestamptz else due end
    where person = ${person} and id = ${id} returning ${columns(sql)}`;
  if (!row) throw notFound("task", id);
  await tellOfSettings(sql, context);
  return shapeOf(row);
}
