import { randomUUID } from "node:crypto";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from "vitest";
import {
  changeAccount,
  createDraft,
  deleteAccount,
  importFile,
  listAccounts,
  listMessages,
  sendDraft,
  takeBack,
} from "@/server/act";
import { runId } from "@/core/id";
import { docOfText } from "@/core/letter";
import { doJob, ParsePool, sendDue } from "@/server/jobs";
import { letter, startMailService, type MailService } from "../fixtures/mail-service";
import { WORKER } from "./database";
import { Sides } from "./sides";

/** The app and a stock server: what happens on either side happens on both. */

const USERS = Array.from({ length: 20 }, (_, n) => `u${n}`);
let service: MailService;
let sides: Sides;
let next = 0;
beforeAll(async () => {
  service = await startMailService(USERS);
});
afterAll(() => service.end());
beforeEach(async () => {
  sides = await Sides.open(service, USERS[next++]!);
});
afterEach(() => sides.end());

test("mail comes in with its flags, folders with their names, and each once", async () => {
  await sides.fill(3);
  await sides.bare.append("INBOX", letter(4), ["\\Seen", "\\Flagged", "Winter=20season", "$junk"]);
  await sides.bare.run('CREATE "Wardens/Rota"');
  await sides.bare.append("Wardens/Rota", letter(5));
  await sides.bare.append("Archive", letter(6), ["\\Seen", "\\Answered"]);
  await sides.connect();
  expect(await sides.see()).toBe(6);
  expect((await sides.here()).map(({ messageId, path, bits, labels }) => [messageId, path, bits, ...labels])).toEqual([
    ["<m1@post.example>", "Inbox", 0],
    ["<m2@post.example>", "Inbox", 0],
    ["<m3@post.example>", "Inbox", 0],
    ["<m4@post.example>", "Inbox", 9, "Winter season"],
    ["<m5@post.example>", "Wardens/Rota", 0],
    ["<m6@post.example>", "Archive", 1],
  ]);
  expect(await sides.see()).toBe(0);
  expect(await sides.here()).toHaveLength(6);
  expect(await listAccounts(sides.fresh.context)).toMatchObject([
    { messages: 6, waiting: 0, refused: 0, trouble: null, doing: null },
  ]);
});

test("what is decided here happens there in a few commands, and undo in a few more", async () => {
  for (let n = 1; n <= 300; n++) await sides.bare.append("INBOX", letter(n));
  await sides.connect();
  await sides.see();
  const ids = (await sides.here()).map(({ id }) => id);
  const { entry } = await sides.run(ids, { do: "archive" }, { do: "read" });
  sides.changing();
  await sides.see();
  expect(await sides.there("INBOX")).toEqual([]);
  expect(await sides.there("Archive")).toHaveLength(300);
  expect((await sides.there("Archive")).every((line) => line.endsWith("\\Seen"))).toBe(true);
  expect(sides.changing()).toHaveLength(2);
  await takeBack(sides.fresh.context, "undo", runId(entry!.id));
  await sides.see();
  expect(sides.changing()).toHaveLength(2);
  expect(await sides.there("Archive")).toEqual([]);
  expect(await sides.there("INBOX")).toHaveLength(300);
  expect((await sides.there("INBOX")).some((line) => line.includes("Seen"))).toBe(false);
  expect(await sides.see()).toBe(0);
  expect((await sides.here()).every(({ path, bits }) => path === "Inbox" && bits === 0)).toBe(true);
});

test("what is reported as junk or deceit, the server is told by the keywords that are registered for it", async () => {
  await sides.fill(3);
  await sides.connect();
  await sides.see();
  const [one, two] = await sides.here();
  await sides.fresh.db.sql`update person set settings = settings || '{"holdSeconds": 0}'`;
  const { entry } = await sides.run([two!.id], { do: "report", as: "junk" });
  await takeBack(sides.fresh.context, "undo", runId(entry!.id));
  await sides.run([one!.id], { do: "report", as: "deceit" }, { do: "archive" });
  await sides.run([two!.id], { do: "report", as: "junk" });
  await sides.see();
  await sides.see();
  expect(await sides.there("Archive")).toEqual(["<m1@post.example> $Phishing"]);
  expect(await sides.there("INBOX")).toEqual(["<m2@post.example> $Junk", "<m3@post.example>"]);
  const rows = await sides.fresh.db.sql<{ state: string }[]>`select state from report`;
  expect(rows.map(({ state }) => state)).toEqual(["told", "told"]);
  // It is said once, and what the server keeps of it is no label here.
  sides.changing();
  await sides.see();
  expect(sides.changing()).toEqual([]);
  expect((await sides.here()).flatMap(({ labels }) => labels)).toEqual([]);
});

describe("what another program does", () => {
  test("flags, labels, moves and copies are here, by the server; a deleted message is in the trash", async () => {
    await sides.fill(6);
    await sides.connect();
    await sides.see();
    await sides.bare.select("INBOX");
    await sides.bare.run("UID STORE 1 +FLAGS (\\Seen)");
    await sides.bare.run("UID STORE 2 +FLAGS (\\Flagged Invoice)");
    await sides.bare.run("UID MOVE 3 Archive");
    await sides.bare.run("UID STORE 4 +FLAGS (\\Deleted)");
    await sides.bare.run("UID EXPUNGE 4");
    await sides.bare.run("UID COPY 5 Archive");
    const before = await sides.byId(3);
    await sides.see();
    await sides.see();
    const rows = (await sides.here()).map(({ messageId, path, bits, labels }) => [messageId, path, bits, ...labels]);
    expect(rows).toEqual([
      ["<m1@post.example>", "Inbox", 1],
      ["<m2@post.example>", "Inbox", 8, "Invoice"],
      ["<m3@post.example>", "Archive", 0],
      ["<m4@post.example>", "Trash", 0],
      ["<m5@post.example>", "Inbox", 0],
      ["<m5@post.example>", "Archive", 0],
      ["<m6@post.example>", "Inbox", 0],
    ]);
    expect((await sides.byId(3)).id).toBe(before.id);
    // None of it was said back.
    expect(await sides.there("Archive")).toEqual(["<m3@post.example>", "<m5@post.example>"]);
    const actors = await sides.fresh.db.sql<{ actor: string }[]>`
      select distinct actor from ledger where kind = 'run'`;
    expect(actors.map(({ actor }) => actor)).toEqual(["server"]);
  });

  test("what changes between the look at the inbox and the watch on it is not left for the next minute", async () => {
    await sides.fill(1);
    await sides.connect();
    await sides.see();
    await sides.bare.select("INBOX");
    let flagged: Promise<string> | null = null;
    // The server says how the inbox is before it says so of the trash.
    service.wire.change = (said) => {
      if (/STATUS "?Trash/.test(said)) flagged ??= sides.bare.run("STORE 1 +FLAGS (\\Flagged)");
      return said;
    };
    await sides.see();
    await flagged;
    await sides.live(async () => (await sides.byId(1)).bits === 8);
  });

  test("what has gone is heard of without looking through all that is left (QRESYNC)", async () => {
    await sides.fill(6);
    await sides.connect();
    await sides.see();
    const remove = async (uid: number) => {
      await sides.bare.select("INBOX");
      await sides.bare.run(`UID STORE ${uid} +FLAGS (\\Deleted)`);
      await sides.bare.run(`UID EXPUNGE ${uid}`);
      await sides.bare.run(`UID STORE ${uid + 1} +FLAGS (\\Seen)`);
      service.wire.commands.length = 0;
      await sides.settle();
    };
    await remove(2);
    expect(service.wire.commands.filter((command) => command.includes("SEARCH"))).toEqual([]);
    expect((await sides.byId(2)).path).toBe("Trash");
    expect((await sides.byId(3)).bits).toBe(1);
    // One that keeps that to itself is looked through all the same.
    service.wire.change = (said) => said.replace(/\* VANISHED \(EARLIER\)[^\r]*\r\n/g, "");
    await remove(4);
    expect(service.wire.commands.some((command) => command.includes("SEARCH"))).toBe(true);
    expect((await sides.here()).map(({ path, bits }) => [path, bits])).toEqual([
      ["Inbox", 0],
      ["Trash", 0],
      ["Inbox", 1],
      ["Trash", 0],
      ["Inbox", 1],
      ["Inbox", 0],
    ]);
  });

  test("where both moved the same message, what was decided here stands", async () => {
    await sides.fill(1);
    await sides.bare.run("CREATE Elsewhere");
    await sides.connect();
    await sides.see();
    await sides.run([(await sides.byId(1)).id], { do: "archive" });
    await sides.bare.select("INBOX");
    await sides.bare.run("UID MOVE 1 Elsewhere");
    for (let n = 0; n < 3; n++) await sides.see();
    expect((await sides.byId(1)).path).toBe("Archive");
    expect(await sides.there("Archive")).toEqual(["<m1@post.example>"]);
    expect(await sides.there("Elsewhere")).toEqual([]);
  });

  test("numbers that mean something else (UIDVALIDITY) double nothing", async () => {
    await sides.bare.run("CREATE Rota");
    await sides.fill(4, "Rota");
    await sides.connect();
    await sides.see();
    const before = (await sides.here()).map(({ id, messageId }) => [id, messageId]);
    await sides.bare.run("RENAME Rota Old");
    await sides.bare.run("CREATE Rota");
    for (let n = 4; n >= 1; n--) await sides.bare.append("Rota", letter(n), n === 2 ? ["\\Seen"] : []);
    await sides.bare.run("DELETE Old");
    for (let n = 0; n < 3; n++) await sides.see();
    expect((await sides.here()).map(({ id, messageId }) => [id, messageId])).toEqual(before);
    expect((await sides.here()).map(({ path, bits }) => [path, bits])).toEqual([
      ["Rota", 0],
      ["Rota", 1],
      ["Rota", 0],
      ["Rota", 0],
    ]);
  });
});

test("a message that was brought in from a file, and one that is on the server twice, are told apart", async () => {
  await sides.fill(1);
  await sides.bare.append("INBOX", letter(1));
  await sides.connect();
  await sides.see();
  expect(await sides.here()).toHaveLength(2);
  const [first] = await sides.here();
  await sides.run([first!.id], { do: "archive" });
  await sides.see();
  expect(await sides.there("INBOX")).toHaveLength(1);
  expect(await sides.there("Archive")).toHaveLength(1);
});

test("mail is of the account it came through, also what was here before; what of it is left is local", async () => {
  const { fresh } = sides;
  const bring = async (n: number) => {
    async function* file() {
      yield Buffer.from(letter(n).replaceAll("\n", "\r\n"));
    }
    const job = await importFile(fresh.context, "x", "Inbox", file());
    const pool = new ParsePool(WORKER, 1);
    await doJob(fresh.db, (await fresh.db.sql`select * from job where id = ${job}`)[0] as never, pool);
    await pool.close();
  };
  const found = async (narrow: string) => {
    const { rows } = await listMessages(fresh.context, { narrow, order: "oldest", limit: 100, after: null });
    return rows.map(({ subject, account }) => `${subject}: ${account}`);
  };
  await bring(1);
  await bring(9);
  expect(await found("account=local")).toEqual(["number 1: local", "number 9: local"]);
  await sides.bare.append("INBOX", letter(1).replaceAll("\n", "\r\n"));
  await sides.fill(1, "INBOX", 2);
  const { id } = await sides.connect();
  await sides.see();
  expect(await found("account=desk@huts.example")).toEqual([
    "number 1: desk@huts.example",
    "number 2: desk@huts.example",
  ]);
  expect(await found("!account~desk")).toEqual(["number 9: local"]);
  await changeAccount(fresh.context, id, { name: "Front desk" });
  expect(await found('account="front DESK" & subject="number 2"')).toEqual(["number 2: Front desk"]);
  const draft = await createDraft(fresh.context, {
    kind: "new",
    answers: null,
    to: [{ name: "", address: "guest@post.example" }],
    subject: "Ten beds",
    body: docOfText("They are free."),
  });
  await fresh.db.sql`update person set settings = settings || '{"holdSeconds": 0}'`;
  await sendDraft(fresh.context, draft.id, { id: randomUUID(), version: null, afterwards: null });
  await sendDue(fresh.db, new Date());
  await sides.settle();
  expect(await found("account~front folder=Sent")).toEqual(["Ten beds: Front desk"]);
  await deleteAccount(fresh.context, id, "keep");
  expect(await found("account=local")).toHaveLength(4);
  await expect(found("account=front")).rejects.toThrow(/account/);
});

test("what is deleted for good is deleted there, and a new folder is made there for its first message", async () => {
  await sides.fill(2);
  await sides.connect();
  await sides.see();
  await sides.run([(await sides.byId(1)).id], { do: "delete for good" });
  await sides.run([(await sides.byId(2)).id], { do: "move", to: "Bookings/Groups" });
  await sides.see();
  expect(await sides.there("INBOX")).toEqual([]);
  expect(await sides.there("Bookings/Groups")).toEqual(["<m2@post.example>"]);
  await sides.see();
  expect(await sides.here()).toHaveLength(1);
});

test("a letter goes out by the account, once, and is in the server's Sent once", async () => {
  await sides.connect();
  await sides.see();
  const draft = await createDraft(sides.fresh.context, {
    kind: "new",
    answers: null,
    to: [
      { name: "", address: "guest@post.example" },
      { name: "", address: "nobody@post.example" },
    ],
    subject: "Six beds",
    body: docOfText("They are free."),
  });
  await sides.fresh.db.sql`update person set settings = settings || '{"holdSeconds": 0}'`;
  await sendDraft(sides.fresh.context, draft.id, { id: randomUUID(), version: null, afterwards: null });
  expect(await sendDue(sides.fresh.db, new Date())).toBe(1);
  expect(service.delivered.at(-1)).toMatchObject({ to: ["guest@post.example"] });
  expect(service.delivered.at(-1)!.raw).toContain("They are free.");
  for (let n = 0; n < 2; n++) await sides.see();
  expect(await sides.bare.list("Sent")).toHaveLength(1);
  expect((await sides.bare.list("Sent"))[0]!.flags).toEqual(["\\Seen"]);
  expect((await sides.here()).map(({ path }) => path)).toEqual(["Sent"]);
  const entries = await sides.fresh.db.sql<{ cause: string }[]>`select cause from ledger where actor = 'outbox'`;
  expect(entries).toEqual([{ cause: "desk@huts.example" }]);
});

test("what is answered here is answered there, though nothing else about it changed", async () => {
  await sides.bare.append("INBOX", letter(1), ["\\Seen"]);
  await sides.connect();
  await sides.see();
  const draft = await createDraft(sides.fresh.context, { kind: "reply", answers: (await sides.byId(1)).id });
  await sides.fresh.db.sql`update person set settings = settings || '{"holdSeconds": 0}'`;
  await sendDraft(sides.fresh.context, draft.id, { id: randomUUID(), version: null, afterwards: null });
  await sides.settle();
  expect(await sides.there("INBOX")).toEqual(["<m1@post.example> \\Seen"]);
  expect(await sendDue(sides.fresh.db, new Date())).toBe(1);
  await sides.settle();
  expect(await sides.there("INBOX")).toEqual(["<m1@post.example> \\Answered \\Seen"]);
});

test("where the server files what it was given by itself, changed a little, it is there and here once", async () => {
  await sides.connect();
  await sides.see();
  const draft = await createDraft(sides.fresh.context, {
    kind: "new",
    answers: null,
    to: [{ name: "", address: "guest@post.example" }],
    subject: "Eight beds",
    body: docOfText("They are free."),
  });
  await sides.fresh.db.sql`update person set settings = settings || '{"holdSeconds": 0}'`;
  await sendDraft(sides.fresh.context, draft.id, { id: randomUUID(), version: null, afterwards: null });
  await sendDue(sides.fresh.db, new Date());
  await sides.bare.append("Sent", `Received: by a server that writes this\n${service.delivered.at(-1)!.raw}`, [
    "\\Seen",
  ]);
  for (let n = 0; n < 2; n++) await sides.see();
  expect(await sides.bare.list("Sent")).toHaveLength(1);
  expect((await sides.here()).map(({ path, uid }) => [path, uid])).toEqual([["Sent", 1]]);
});

test("a server that restarts is waited out; nothing is lost or done twice", async () => {
  await sides.fill(5);
  await sides.connect();
  await sides.see();
  await service.imap.stop();
  await sides.run(
    (await sides.here()).map(({ id }) => id),
    { do: "archive" },
  );
  expect(await sides.see()).toBeNull();
  expect((await listAccounts(sides.fresh.context))[0]!.trouble).toContain("closes the connection");
  await service.imap.restart();
  sides.bare = await service.bare(sides.user);
  for (let n = 0; n < 2; n++) await sides.see();
  expect((await listAccounts(sides.fresh.context))[0]).toMatchObject({ trouble: null, waiting: 0 });
  expect(await sides.there("Archive")).toHaveLength(5);
  expect(await sides.here()).toHaveLength(5);
});

test("an account that is given up leaves its mail, or puts it into the trash, and never touches the server's", async () => {
  await sides.fill(2);
  const { id } = await sides.connect();
  await sides.see();
  await deleteAccount(sides.fresh.context, id, "trash");
  expect((await sides.here()).map(({ path }) => path)).toEqual(["Trash", "Trash"]);
  expect(await sides.there("INBOX")).toHaveLength(2);
  expect(await listAccounts(sides.fresh.context)).toEqual([]);
});
