import type { z } from "zod";
import { nextTime } from "@/core/agenda";
import type { newTask, taskPatch, TaskShape } from "@/core/api";
import { changeOf, PLAIN_TASK, type Task } from "@/core/change";
import { messageId } from "@/core/id";
import { cut } from "@/core/text";
import type { Queryable, Transaction } from "../db";
import { inTurn, notFound, openTasks, Refusal } from "../run";
import { reserve } from "../store";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

type Row = Omit<TaskShape, "due"> & { due_ms: number | null };

/** A list past this is no list any more. */
const MOST_TASKS = 2000;
const LONGEST_ABOUT = 300;

const columns = (sql: Queryable) => sql`
  t.id, (select m.id from message m where m.person = t.person and m.id = t.message) as message, t.title,
  (extract(epoch from t.due) * 1000)::float8 as due_ms, t.estimate, t.about, t.done, t.pressing, t.waiting, t.repeat`;

const shapeOf = ({ due_ms, ...row }: Row): TaskShape => ({
  ...row,
  due: due_ms === null ? null : new Date(due_ms).toISOString(),
});

/** Open tasks first, the most pressing on top. */
export const listTasks = (context: Context): Promise<TaskShape[]> => readTasks(context.db.sql, context);

/** The same within a turn. */
export async function readTasks(sql: Queryable, { person }: Pick<Context, "person">): Promise<TaskShape[]> {
  const rows = await sql<Row[]>`
    select ${columns(sql)} from task t where person = ${person}
    order by done, pressing desc, due nulls last, id limit ${MOST_TASKS}`;
  return rows.map(shapeOf);
}

/** When open tasks are due, by the messages they were made from. */
export const openTasksOf = ({ db, person }: Context) => openTasks(db.sql, person);

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

interface TaskEdit {
  readonly id: number;
  readonly message: number | null;
  readonly before: Task | null;
  readonly after: Task | null;
}

/** Writes what a task is to be: an entry of the ledger like any run, and taken back like one. */
async function writeTask(
  tx: Transaction,
  context: Context,
  seq: number,
  name: string,
  { id, message, before, after }: TaskEdit,
): Promise<void> {
  if (after?.repeat != null && after.due === null)
    throw new Refusal(422, "The task has no date", "What comes again begins some day: say when it is due first.");
  const about = message === null ? null : messageId(message);
  await writeByHand(tx, context, seq, changeOf([], [{ kind: "task", key: String(id), about, before, after }]), {
    name,
    about: (before ?? after)!.title,
    messages: about === null ? 0 : 1,
  });
}

async function readTask(tx: Transaction, { person }: Context, id: number): Promise<TaskShape> {
  const [row] = await tx<Row[]>`select ${columns(tx)} from task t where person = ${person} and id = ${id}`;
  if (!row) throw notFound("task", id);
  return shapeOf(row);
}

const utc = (due: string | null): string | null => (due === null ? null : new Date(due).toISOString());

/** Who a message is from and what it is about, as a task keeps it. */
async function aboutOf(tx: Transaction, { person }: Context, message: number): Promise<string> {
  const [row] = await tx<{ sender: string; subject: string }[]>`
    select coalesce(nullif(from_name, ''), nullif(from_address, ''), 'no sender') as sender,
      coalesce(nullif(subject, ''), '(no subject)') as subject
    from message where person = ${person} and id = ${message}`;
  if (!row) throw notFound("message", message);
  return cut(`${row.sender}: ${row.subject}`, LONGEST_ABOUT);
}

export async function createTask(context: Context, body: z.infer<typeof newTask>): Promise<TaskShape> {
  return inTurn(context.db, context.person, async (tx, seq) => {
    const { message, ...fields } = body;
    const about = message === null ? "" : await aboutOf(tx, context, message);
    const [id] = await reserve(tx, "task", 1);
    const after: Task = { ...PLAIN_TASK, ...fields, about, due: utc(body.due) };
    await writeTask(tx, context, seq, "New task", { id: id!, message, before: null, after });
    return readTask(tx, context, id!);
  });
}

/** Changes a task by hand. One that comes again is due next time once it is done. */
export async function changeTask(context: Context, id: number, body: z.infer<typeof taskPatch>): Promise<TaskShape> {
  return inTurn(context.db, context.person, async (tx, seq) => {
    const { id: _, message, ...before } = await readTask(tx, context, id);
    let after: Task = { ...before, ...body, due: body.due === undefined ? before.due : utc(body.due) };
    const isDone = after.done !== before.done;
    const isOver = after.done && !before.done && after.repeat !== null && after.due !== null;
    if (isOver) after = { ...after, done: false, ...nextTime(after.due!, after.repeat!, new Date(), context.zone) };
    const name = isOver ? "Task, next time" : isDone ? (after.done ? "Task done" : "Task open again") : "Change task";
    await writeTask(tx, context, seq, name, { id, message, before, after });
    return readTask(tx, context, id);
  });
}

export async function deleteTask(context: Context, id: number): Promise<void> {
  await inTurn(context.db, context.person, async (tx, seq) => {
    const { id: _, message, ...before } = await readTask(tx, context, id);
    await writeTask(tx, context, seq, "Deleted task", { id, message, before, after: null });
  });
}
