import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { changeSettings, createDraft, listOutgoing, readMessage, sendDraft } from "@/server/act";
import { docOfText } from "@/core/letter";
import { ensureSimulated } from "@/server/gateway";
import { openDatabase } from "@/server/db";
import { sendDue } from "@/server/jobs";
import { inTurn } from "@/server/run";
import { freshDatabase, type Fresh } from "./database";
import { killedProgram, type Killed } from "./killed";

let fresh: Fresh;
let program: Killed;
beforeAll(async () => {
  fresh = await freshDatabase();
  await inTurn(fresh.db, fresh.context.person, (tx) => ensureSimulated(tx, fresh.context.person, 0));
  await fresh.db.sql`update simulator set answers = 0, bounces = 0`;
  await changeSettings(fresh.context, { holdSeconds: 0 });
  program = await killedProgram("send", fresh.url);
});
afterAll(async () => {
  program.remove();
  await fresh.drop();
});

async function queue(address: string): Promise<number> {
  const draft = await createDraft(fresh.context, {
    kind: "new",
    answers: null,
    to: [{ name: "", address }],
    subject: address,
    body: docOfText("x"),
  });
  await sendDraft(fresh.context, draft.id, { id: randomUUID(), version: null, afterwards: null });
  return draft.id;
}

/** What the service itself counts. */
const receivedBy = async (address: string): Promise<number> => {
  const [row] = await fresh.db.sql<{ count: number }[]>`
    select count(*)::int as count from simulated_sent where recipient = ${address}`;
  return row!.count;
};
const settled = async (id: number): Promise<string> => {
  await sendDue(fresh.db, new Date(Date.now() + 1000));
  const { folder: place } = await readMessage(fresh.context, id);
  const way = (await listOutgoing(fresh.context)).find(({ message }) => message === id);
  return `${place} ${way?.state ?? "gone"}`;
};

describe("kill -9 while a message is being sent", () => {
  test(
    "at every step of it: it reaches everybody at the most once, and is never lost",
    { timeout: 480_000 },
    async () => {
      await queue("silent.first@post.example");
      const { asked, killed } = await program.run(0);
      expect(killed).toBe(false);
      expect(asked).toBeGreaterThan(10);
      const seen = { unsure: 0, sent: 0, kills: 0 };
      for (let round = 0; round < 4; round++)
        for (let at = 1; at <= asked; at++) {
          const address = `silent.r${round}.k${at}@post.example`;
          const id = await queue(address);
          const { killed: was } = await program.run(at);
          if (was) seen.kills++;
          // The lock goes with the connection of who held it, as soon as the server notices.
          await expect.poll(() => settled(id), { timeout: 30_000 }).toMatch(/^(Sent gone|Outbox unsure)$/);
          const state = await settled(id);
          const count = await receivedBy(address);
          if (state === "Sent gone") {
            seen.sent++;
            expect(count, `killed at ${at}`).toBe(1);
          } else {
            seen.unsure++;
            expect(count, `killed at ${at}`).toBeLessThanOrEqual(1);
            await fresh.db.sql`update held set state = 'sent' where message = ${id}`;
          }
        }
      expect(seen.kills).toBeGreaterThan(3 * asked);
      expect(seen.sent).toBeGreaterThan(0);
      expect(seen.unsure).toBeGreaterThan(0);
    },
  );
});

test("several programs at once send each message once", async () => {
  const ids: number[] = [];
  for (let n = 0; n < 20; n++) ids.push(await queue(`silent.many${n}@post.example`));
  const others = [openDatabase(fresh.url, 4), openDatabase(fresh.url, 4)];
  const now = new Date(Date.now() + 1000);
  const counts = await Promise.all([fresh.db, ...others].map((db) => sendDue(db, now)));
  expect(counts.reduce((a, b) => a + b)).toBe(20);
  for (let n = 0; n < 20; n++) expect(await receivedBy(`silent.many${n}@post.example`)).toBe(1);
  for (const id of ids) expect((await readMessage(fresh.context, id)).folder).toBe("Sent");
  await Promise.all(others.map((db) => db.close()));
});
