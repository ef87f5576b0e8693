import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  beginPractice,
  changeDraft,
  changeSettings,
  createDraft,
  endPractice,
  listMessages,
  listOutgoing,
  readJobs,
  readLedger,
  readSettings,
  readSimulator,
  runMacro,
  sendDraft,
} from "@/server/act";
import { doJob, ParsePool, sendDue } from "@/server/jobs";
import { readDirectory } from "@/server/run";
import { fillWithMessages, freshDatabase, WORKER, type Fresh } from "./database";
import { serviceOf } from "./service";

let fresh: Fresh;
beforeAll(async () => {
  fresh = await freshDatabase();
  await serviceOf(fresh);
  await changeSettings(fresh.context, { holdSeconds: 0 });
});
afterAll(() => fresh.drop());

const listed = async (narrow: string) =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 50, after: null })).rows;
const run = (ids: readonly number[], ...steps: object[]) =>
  runMacro(fresh.context, { id: randomUUID(), macro: { name: "x", steps }, target: { ids } } as never);
const folders = async () => (await readDirectory(fresh.db.sql, fresh.context.person)).folders.map(({ path }) => path);

async function bringIn(): Promise<void> {
  const [job] = await readJobs(fresh.context);
  const pool = new ParsePool(WORKER, 1);
  const [row] = await fresh.db.sql`select * from job where id = ${job!.id}`;
  await doJob(fresh.db, row as never, pool);
  await pool.close();
}

describe("practice letters", () => {
  test("are twelve, in a folder of their own, and beginning again while it goes on brings no more", async () => {
    const [begun, ...others] = await Promise.all(Array.from({ length: 4 }, () => beginPractice(fresh.context)));
    expect(others).toEqual([begun, begun, begun]);
    await bringIn();
    expect(await listed("folder=Practice")).toHaveLength(12);
    expect(await beginPractice(fresh.context)).toEqual(begun);
    expect(await readJobs(fresh.context)).toHaveLength(1);
    expect((await readSettings(fresh.context)).practice).toEqual(begun);
    const threads = new Set((await listed("folder=Practice")).map(({ thread }) => thread));
    expect(threads.size).toBe(11);
  });

  test("can be answered: the answer counts as sent, and no service ever sees it", async () => {
    const before = (await readSimulator(fresh.context)).received;
    const [first] = await listed("folder=Practice");
    const draft = await createDraft(fresh.context, { kind: "reply", answers: first!.id });
    expect(draft.to[0]!.address).toMatch(/@practice\.larchhuts\.example$/);
    const saved = await changeDraft(fresh.context, draft.id, { version: draft.version, subject: "Re: beds" });
    await sendDraft(fresh.context, draft.id, { id: randomUUID(), version: saved.version, afterwards: null });
    expect(await sendDue(fresh.db, new Date(Date.now() + 1000))).toBe(1);
    expect((await readSimulator(fresh.context)).received).toEqual(before);
    expect(await listOutgoing(fresh.context)).toEqual([]);
    expect((await listed("folder=Sent")).map(({ id }) => id)).toEqual([draft.id]);
  });

  test("go for good wherever they were put, with what was written to them, and nothing else does", async () => {
    const [own] = await fillWithMessages(fresh, 1);
    const [a, b, c] = (await listed("folder=Practice")).map(({ id }) => id);
    await run([a!], { do: "archive" });
    await run([b!], { do: "move", to: "Bookings" });
    await run([c!], { do: "trash" });
    await run([own!], { do: "move", to: "Practice" });
    await endPractice(fresh.context);
    expect((await listed("")).map(({ id }) => id)).toEqual([own]);
    // What somebody else put there is where it can be found.
    expect((await listed("folder=Inbox")).map(({ id }) => id)).toEqual([own]);
    expect(await folders()).not.toContain("Practice");
    expect((await readSettings(fresh.context)).practice!.over).toBe(true);
    expect((await readLedger(fresh.context, { limit: 5 })).map(({ macro }) => macro.name)).toContain("End of practice");
  });

  test("can be had again, as new letters, and ended without having been begun", async () => {
    await beginPractice(fresh.context);
    await bringIn();
    expect(await listed("folder=Practice")).toHaveLength(12);
    await endPractice(fresh.context);
    await endPractice(fresh.context);
    expect(await folders()).not.toContain("Practice");
  });
});
