import type { z } from "zod";
import type { taskPatch, TaskShape } from "@/core/api";
import { changeOf, type Task } from "@/core/change";
import { messageId } from "@/core/id";
import type { Queryable } from "../db";
import { inTurn, notFound } from "../run";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

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

/** What was done to a task, for its line in the ledger. */
function nameOf(before: Task, after: Task): string {
  const what = before.done !== after.done ? (after.done ? "Task done" : "Task open again") : "Change task";
  return `${what}: ${after.title}`;
}

/** Changes a task by hand: an entry of the ledger like any run, and taken back like one. */
export async function changeTask(context: Context, id: number, body: z.infer<typeof taskPatch>): Promise<TaskShape> {
  const { db, person } = context;
  return inTurn(db, person, async (tx, seq) => {
    const [row] = await tx<Row[]>`select ${columns(tx)} from task t where person = ${person} and id = ${id}`;
    if (!row) throw notFound("task", id);
    const { id: _, message, due_ms, ...rest } = row;
    const before: Task = { ...rest, due: due_ms === null ? null : new Date(due_ms).toISOString() };
    const { title = before.title, done = before.done, due = before.due } = body;
    const after: Task = { ...before, title, done, due: due === null ? null : new Date(due).toISOString() };
    const about = message === null ? null : messageId(message);
    const wanted = changeOf([], [{ kind: "task", key: String(id), about, before, after }]);
    await writeByHand(tx, context, seq, wanted, {
      name: nameOf(before, after),
      about: before.title,
      messages: about === null ? 0 : 1,
    });
    const [now] = await tx<Row[]>`select ${columns(tx)} from task t where person = ${person} and id = ${id}`;
    return shapeOf(now!);
  });
}
