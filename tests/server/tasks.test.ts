import { afterAll, beforeAll, expect, test } from "vitest";
import { changeTask, createTask, deleteTask, listTasks, readLedger, takeBack } from "@/server/act";
import { runId } from "@/core/id";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** Tasks made, changed, done and deleted by hand; each is an entry, and taken back exactly. */

let fresh: Fresh;
let messages: number[];
const NEW = {
  title: "Ring the helicopter people",
  due: null,
  estimate: null,
  pressing: false,
  waiting: false,
  repeat: null,
  message: null,
};
const all = () => listTasks(fresh.context);
const newest = async () => (await readLedger(fresh.context, { limit: 1 }))[0]!;
/** Does something, takes it back and does it again, and sees that each leaves what it should. */
async function backAndForth(said: string, deed: () => Promise<unknown>): Promise<void> {
  const before = await all();
  await deed();
  const after = await all();
  expect(after).not.toEqual(before);
  const entry = await newest();
  expect(`${entry.macro.name}: ${entry.about}`).toBe(said);
  await takeBack(fresh.context, "undo", runId(entry.id));
  expect(await all()).toEqual(before);
  await takeBack(fresh.context, "redo", runId(entry.id));
  expect(await all()).toEqual(after);
}

beforeAll(async () => {
  fresh = await freshDatabase();
  messages = await fillWithMessages(fresh, 3);
});
afterAll(() => fresh.drop());

test("a task holds all that was said, and who its message was from and what it was about", async () => {
  await backAndForth(`New task: ${NEW.title}`, () =>
    createTask(fresh.context, {
      ...NEW,
      due: "2026-12-04T10:00:00+01:00",
      estimate: 30,
      pressing: true,
      repeat: "2 week",
      message: messages[0]!,
    }),
  );
  const [row] = await fresh.db.sql<{ about: string }[]>`
    select from_name || ': ' || subject as about from message where id = ${messages[0]!}`;
  expect(await all()).toMatchObject([
    {
      title: NEW.title,
      due: "2026-12-04T09:00:00.000Z",
      estimate: 30,
      pressing: true,
      waiting: false,
      repeat: "2 week",
      message: messages[0],
      about: row!.about,
      done: false,
    },
  ]);
});

test("each part is changed by itself", async () => {
  const { id } = (await all())[0]!;
  for (const patch of [
    { title: "Ring them" },
    { due: "2026-12-05T08:00:00.000Z" },
    { estimate: null },
    { pressing: false },
    { waiting: true },
    { repeat: null },
  ]) {
    const [before] = await all();
    await backAndForth(`Change task: ${before!.title}`, () => changeTask(fresh.context, id, patch));
    expect(await all()).toEqual([{ ...before, ...patch }]);
  }
});

test("done is done; what comes again is due next time instead", async () => {
  const { id } = (await all())[0]!;
  await backAndForth("Task done: Ring them", () => changeTask(fresh.context, id, { done: true }));
  await changeTask(fresh.context, id, { done: false });
  await changeTask(fresh.context, id, { repeat: "1 year", due: "2020-02-29T08:00:00.000Z" });
  await backAndForth("Task, next time: Ring them", () => changeTask(fresh.context, id, { done: true }));
  const [task] = await all();
  expect(task!.done).toBe(false);
  expect(Date.parse(task!.due!)).toBeGreaterThan(Date.now());
  expect(task!.due).toMatch(/-02-2[89]T08:00:00/);
});

test("what comes again needs a date, and what is not there is said", async () => {
  const { id } = (await all())[0]!;
  const dateless = { status: 422, detail: "What comes again begins some day: say when it is due first." };
  await expect(createTask(fresh.context, { ...NEW, repeat: "1 day" })).rejects.toMatchObject(dateless);
  await expect(changeTask(fresh.context, id, { due: null })).rejects.toMatchObject(dateless);
  await expect(changeTask(fresh.context, 99_999, { done: true })).rejects.toMatchObject({ status: 404 });
  await expect(deleteTask(fresh.context, 99_999)).rejects.toMatchObject({ status: 404 });
  await expect(createTask(fresh.context, { ...NEW, message: 99_999 })).rejects.toMatchObject({ status: 404 });
});

test("a deleted task comes back as it was", async () => {
  const { id } = (await all())[0]!;
  await backAndForth("Deleted task: Ring them", () => deleteTask(fresh.context, id));
});

test("what presses stands before what is due sooner, and what is done last", async () => {
  const make = async (title: string, more: object = {}) =>
    (await createTask(fresh.context, { ...NEW, title, ...more })).id;
  const done = await make("done");
  await changeTask(fresh.context, done, { done: true });
  await make("some day");
  await make("soon", { due: "2026-11-28T08:00:00.000Z" });
  await make("pressing", { pressing: true });
  expect((await all()).map(({ title }) => title)).toEqual(["pressing", "soon", "some day", "done"]);
});
