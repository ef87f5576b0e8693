import { afterAll, afterEach, beforeAll, beforeEach, expect, test } from "vitest";
import { importFile, listAccounts, listMessages, readJob, readMessage, readRaw } from "@/server/act";
import { doJob, ParsePool } from "@/server/jobs";
import { letter, startMailService, type MailService } from "../fixtures/mail-service";
import { WORKER } from "./database";
import { Sides } from "./sides";

/** Files of mail that an account's server has as well: they are the same messages, whichever was here first. */

const USERS = Array.from({ length: 8 }, (_, n) => `f${n}`);
let service: MailService;
let sides: Sides;
let pool: ParsePool;
let next = 0;
beforeAll(async () => {
  service = await startMailService(USERS);
  pool = new ParsePool(WORKER, 1);
});
afterAll(async () => {
  await pool.close();
  await service.end();
});
beforeEach(async () => {
  sides = await Sides.open(service, USERS[next++]!);
});
afterEach(() => sides.end());

/** A file with the letters as a mailbox file has them: their lines end with LF. */
const fileOf = (letters: readonly string[]) =>
  letters.map((text) => `From desk@huts.example Tue Nov 24 09:00:00 2026\n${text}\n`).join("");

async function* whole(text: string) {
  yield Buffer.from(text);
}

/** @returns how many came in, and how many were here */
async function bring(file: string, folder = "Readings"): Promise<[number, number]> {
  const { fresh } = sides;
  const id = await importFile(fresh.context, "brought.mbox", folder, whole(file));
  const [row] = await fresh.db.sql`select * from job where id = ${id}`;
  await doJob(fresh.db, row as never, pool);
  const { added, doubles } = await readJob(fresh.context, id);
  return [added, doubles];
}

/** Another program moves the first letter. */
async function moveAway(): Promise<void> {
  await sides.bare.select("INBOX");
  await sides.bare.run("UID MOVE 1 Archive");
}

const letters = [1, 2, 3].map((n) => letter(n));
const where = async () => (await sides.here()).map(({ messageId, path, uid }) => [messageId, path, uid !== null]);
const inbox = [1, 2, 3].map((n) => [`<m${n}@post.example>`, "Inbox", true]);

test("a file of what came from a server is all here already, however its lines end", async () => {
  await sides.fill(3);
  await sides.connect();
  await sides.settle();
  expect(await bring(fileOf(letters))).toEqual([0, 3]);
  expect(await bring(fileOf(letters).replaceAll("\n", "\r\n"))).toEqual([0, 3]);
  expect(await where()).toEqual(inbox);
  // Another letter of the same name is another letter.
  expect(await bring(fileOf([letter(2, "number 2", "X-Note: by hand\n")]))).toEqual([1, 0]);
});

test("what is in one file twice, with either line end, comes in once", async () => {
  const file = fileOf(letters);
  expect(await bring(file + file.replaceAll("\n", "\r\n"))).toEqual([3, 3]);
  expect(await bring(file.replaceAll("\n", "\r\n"))).toEqual([0, 3]);
  expect(await sides.here()).toHaveLength(3);
});

test("what a file brought is the message that the server has, moves with it, and is where the server has it", async () => {
  expect(await bring(fileOf(letters), "Inbox")).toEqual([3, 0]);
  const before = await sides.here();
  await sides.run([before[1]!.id], { do: "flag" });
  await sides.fill(3);
  await sides.connect();
  await sides.settle();
  expect((await sides.here()).map(({ id }) => id)).toEqual(before.map(({ id }) => id));
  expect(await where()).toEqual(inbox);
  // As large as the server says it is: by that it is found again in another mailbox.
  await moveAway();
  await sides.settle();
  expect((await sides.here()).map(({ id, path, bits }) => [id, path, bits & 8])).toEqual([
    [before[0]!.id, "Archive", 0],
    [before[1]!.id, "Inbox", 8],
    [before[2]!.id, "Inbox", 0],
  ]);
});

test("what a file brought before sizes were those on the wire is the server's message as well", async () => {
  await bring(fileOf(letters), "Inbox");
  const before = await sides.here();
  await sides.fresh.db.sql`update message set size = size - 9`;
  await sides.fill(3);
  await sides.connect();
  await sides.settle();
  expect((await sides.here()).map(({ id }) => id)).toEqual(before.map(({ id }) => id));
  await moveAway();
  await sides.settle();
  expect((await sides.here())[0]).toMatchObject({ id: before[0]!.id, path: "Archive" });
});

test("a file brings the sources of what is here by its headers, which stays where it is", async () => {
  await sides.fill(3);
  const text = /BODY\.PEEK\[\]/;
  service.wire.refuse = (command) => (text.test(command) ? "NO [INUSE] not now" : null);
  await sides.connect();
  expect(await sides.see()).toBe(3);
  const { context } = sides.fresh;
  const before = await sides.here();
  await sides.run([before[0]!.id], { do: "archive" });
  expect(await bring(fileOf(letters.slice(0, 2)))).toEqual([0, 2]);
  expect(await listAccounts(context)).toMatchObject([{ messages: 3, coming: 1 }]);
  const after = await sides.here();
  expect(after.map(({ id, path }) => [id, path])).toEqual([
    [before[0]!.id, "Archive"],
    [before[1]!.id, "Inbox"],
    [before[2]!.id, "Inbox"],
  ]);
  expect(await readMessage(context, before[1]!.id)).toMatchObject({ source: "here", text: "Beds, please: 2.\n" });
  expect(Buffer.from(await readRaw(context, before[0]!.id)).toString()).toBe(letters[0]);
  const found = await listMessages(context, { narrow: '"beds please"', order: "oldest", limit: 9, after: null });
  expect(found.rows.map(({ subject }) => subject)).toEqual(["number 1", "number 2"]);
  // The server gives the last one, and is asked for no other.
  service.wire.refuse = () => null;
  service.wire.commands.length = 0;
  await sides.settle();
  expect(service.wire.commands.filter((command) => text.test(command))).toHaveLength(1);
  expect(await listAccounts(context)).toMatchObject([{ messages: 3, coming: 0 }]);
  expect(await sides.here()).toHaveLength(3);
});
