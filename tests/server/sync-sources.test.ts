import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from "vitest";
import {
  createDraft,
  deleteAccount,
  exportAll,
  exportMessages,
  listAccounts,
  listMessages,
  lookNow,
  readMessage,
  readRaw,
} from "@/server/act";
import { messageId } from "@/core/id";
import { Learner } from "@/server/filing";
import { indexWords, learnFilings, ParsePool } from "@/server/jobs";
import { letter, startMailService, type MailService } from "../fixtures/mail-service";
import { WORKER } from "./database";
import { Sides } from "./sides";

/** Of mail that was there before, the headers come first, and can be worked with; the sources come behind them. */

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

const SOURCE = /BODY\.PEEK\[\]/;
/** The server gives no sources until further notice. */
const withhold = () => (service.wire.refuse = (command) => (SOURCE.test(command) ? "NO [INUSE] not now" : null));
const give = () => (service.wire.refuse = () => null);
/** Sets of UIDs that sources were asked for by. */
const askedFor = () =>
  service.wire.commands.flatMap((command) =>
    SOURCE.test(command) ? [/^UID FETCH (\S+)/.exec(command)?.[1] ?? ""] : [],
  );
const wire = (text: string) => text.replace(/\r?\n/g, "\r\n");
const words = () =>
  indexWords(
    sides.fresh.db,
    () => new ParsePool(WORKER, 1),
    () => false,
  );
const found = async (narrow: string) =>
  (
    await listMessages(sides.fresh.context, {
      narrow,
      order: "newest",
      limit: 50,
      after: null,
    })
  ).rows.map(({ subject }) => subject);

/** Connects while the server gives no sources. */
async function headsOnly(count: number): Promise<void> {
  await sides.fill(count);
  withhold();
  await sides.connect();
  expect(await sides.see()).toBe(count);
}

test("headers are here first, with what the server knows of them, and are no guess at the rest", async () => {
  const long = letter(2, "a long one", `${"x".repeat(40_000)}\n`).replace(
    "Message-ID",
    "In-Reply-To: <m1@post.example>\nMessage-ID",
  );
  await sides.bare.append("INBOX", letter(1), ["\\Seen"]);
  await sides.bare.append("INBOX", long, ["\\Flagged"]);
  withhold();
  await sides.connect();
  expect(await sides.see()).toBe(2);
  const [one, two] = await sides.here();
  expect([one!.bits, two!.bits]).toEqual([1, 8]);
  const { context } = sides.fresh;
  const message = await readMessage(context, two!.id);
  expect(message).toMatchObject({
    subject: "a long one",
    source: "coming",
    text: null,
    size: wire(long).length,
    preview: "",
    from: { name: "Guest 2", address: "guest2@post.example" },
  });
  expect(message.notes.join()).toContain("on the server still");
  expect(message.threadRows).toHaveLength(2);
  expect(await listAccounts(context)).toMatchObject([{ messages: 2, coming: 2, trouble: null, doing: null }]);
});

test("what is decided meanwhile is done on the server, and stays when the source comes", async () => {
  await headsOnly(3);
  const before = await sides.here();
  await sides.run([before[1]!.id], { do: "archive" }, { do: "flag" }, { do: "label", add: "Invoice" });
  await sides.see();
  expect(await sides.there("Archive")).toEqual(["<m2@post.example> Invoice \\Flagged"]);
  give();
  await sides.settle();
  const after = await sides.here();
  expect(after.map(({ id, path, bits, labels }) => [id, path, bits, ...labels])).toEqual([
    [before[0]!.id, "Inbox", 0],
    [before[1]!.id, "Archive", 8, "Invoice"],
    [before[2]!.id, "Inbox", 0],
  ]);
  const { context } = sides.fresh;
  expect(await readMessage(context, before[1]!.id)).toMatchObject({
    source: "here",
    text: "Beds, please: 2.\n",
    preview: "Beds, please: 2.",
    notes: [],
  });
  for (const [i, { id }] of after.entries())
    expect(Buffer.from(await readRaw(context, id)).toString()).toBe(wire(letter(i + 1)));
  expect(await sides.fresh.db.sql`select from coming`).toHaveLength(0);
  expect(await sides.fresh.db.sql`select from content`).toHaveLength(3);
  sides.changing();
  await sides.settle();
  expect(sides.changing()).toEqual([]);
  expect(await listAccounts(context)).toMatchObject([{ messages: 3, coming: 0, waiting: 0, trouble: null }]);
});

test("files, suspicions and words are known once it has come", async () => {
  const parts = [
    "From: Bank <bank@post.example>",
    "To: Desk <desk@huts.example>",
    "Subject: the invoice",
    "Message-ID: <m9@post.example>",
    "Date: Tue, 24 Nov 2026 08:09:00 +0000",
    "MIME-Version: 1.0",
    'Content-Type: multipart/mixed; boundary="=b"',
    "",
    "--=b",
    "Content-Type: text/html",
    "",
    '<p>Marmots <a href="http://larch.example/">https://huts.example/</a></p>',
    "--=b",
    'Content-Type: application/pdf; name="bill.pdf"',
    'Content-Disposition: attachment; filename="bill.pdf"',
    "",
    "JVBERi0=",
    "--=b--",
    "",
  ].join("\n");
  await sides.bare.append("INBOX", parts, ["\\Answered"]);
  withhold();
  await sides.connect();
  await sides.see();
  await words();
  expect(await found("marmots")).toEqual([]);
  expect(await found("file~bill")).toEqual([]);
  expect(await found("answered")).toEqual(["the invoice"]);
  give();
  await sides.settle();
  expect(await found("marmots")).toEqual(["the invoice"]);
  expect(await found("file~bill")).toEqual(["the invoice"]);
  expect(await found("attachment")).toEqual(["the invoice"]);
  expect(await found("answered")).toEqual(["the invoice"]);
  const [one] = await sides.here();
  const message = await readMessage(sides.fresh.context, one!.id);
  expect(message.files.map(({ name }) => name)).toEqual(["bill.pdf"]);
  expect(message.suspicions.map(({ sign }) => sign)).toEqual(["falselink"]);
});

test("where mail is filed is learned from what it says, once it has come; what a person does teaches at once", async () => {
  for (let n = 1; n <= 3; n++) await sides.bare.append("Archive", letter(n));
  withhold();
  await sides.connect();
  await sides.see();
  await words();
  const learner = new Learner(sides.fresh.db);
  const learn = () => learnFilings(sides.fresh.db, learner, new Date());
  const learned = async () =>
    (await sides.fresh.db.sql<{ message: number }[]>`select message from filing_receipt order by message`).map(
      ({ message }) => message,
    );
  expect(await learn()).toBe(0);
  const two = await sides.byId(2);
  await sides.run([two.id], { do: "move", to: "Weather" });
  expect(await learn()).toBe(1);
  expect(await learned()).toEqual([two.id]);
  give();
  await sides.settle();
  expect(await learn()).toBe(2);
  expect(await learned()).toEqual((await sides.here()).map(({ id }) => id).sort((a, b) => a - b));
});

test("what somebody looks at comes first, then the newest", async () => {
  const large = "x".repeat(700_000);
  for (let n = 1; n <= 4; n++) await sides.bare.append("INBOX", `${letter(n)}${large}\n`);
  withhold();
  await sides.connect();
  await sides.see();
  const one = await sides.byId(1);
  await readMessage(sides.fresh.context, one.id);
  give();
  service.wire.commands.length = 0;
  await sides.settle();
  // How many go into one command is the line's affair.
  const order = askedFor().flatMap((set) => {
    const [from, to = from] = set.split(":").map(Number);
    return Array.from({ length: to! - from! + 1 }, (_, n) => to! - n);
  });
  expect(askedFor()[0]).toBe("1");
  expect(order).toEqual([1, 4, 3, 2]);
});

test("new mail comes with its source, while older sources are not here", async () => {
  await headsOnly(2);
  give();
  let asked = 0;
  // The first time it is the new one's that is asked for.
  service.wire.refuse = (command) => (SOURCE.test(command) && ++asked > 1 ? "NO [INUSE] not now" : null);
  await sides.fill(1, "INBOX", 3);
  expect(await sides.see()).toBe(1);
  const texts = await Promise.all((await sides.here()).map(({ id }) => readMessage(sides.fresh.context, id)));
  expect(texts.map(({ source, text }) => [source, text])).toEqual([
    ["coming", null],
    ["coming", null],
    ["here", "Beds, please: 3.\n"],
  ]);
});

test("a source that the server refuses keeps no other, and is asked for again later", async () => {
  await sides.fill(9);
  const holds = (set: string) =>
    set.split(",").some((part) => {
      const [low, high = low] = part.split(":").map(Number);
      return low! <= 4 && 4 <= high!;
    });
  service.wire.refuse = (command) => {
    const set = SOURCE.test(command) ? /^UID FETCH (\S+)/.exec(command)?.[1] : undefined;
    return set !== undefined && holds(set) ? "NO [SERVERBUG] this one cannot be read" : null;
  };
  await sides.connect();
  await sides.see();
  expect(await listAccounts(sides.fresh.context)).toMatchObject([{ messages: 9, coming: 1, trouble: null }]);
  service.wire.commands.length = 0;
  await sides.see();
  expect(askedFor()).toEqual(["4"]);
  give();
  await sides.see();
  expect(await readMessage(sides.fresh.context, (await sides.byId(4)).id)).toMatchObject({
    text: "Beds, please: 4.\n",
  });
});

test("a mailbox that cannot be opened any more keeps no other's sources from coming", async () => {
  await sides.fill(1);
  await sides.fill(1, "Trash", 2);
  withhold();
  await sides.connect();
  await sides.see();
  service.wire.refuse = (command) => (/^SELECT "?Trash/.test(command) ? "NO [NOPERM] not for you" : null);
  await sides.see();
  await sides.see();
  const texts = await Promise.all((await sides.here()).map(({ id }) => readMessage(sides.fresh.context, id)));
  expect(texts.map(({ source }) => source)).toEqual(["here", "coming"]);
  expect(await listAccounts(sides.fresh.context)).toMatchObject([{ coming: 1, trouble: null }]);
  give();
  await sides.settle();
  expect(await listAccounts(sides.fresh.context)).toMatchObject([{ coming: 0, trouble: null }]);
});

test("numbers that mean something else by now bring nobody another's text", async () => {
  await headsOnly(3);
  const [one, two] = await sides.here();
  const swap = (id: number, uid: number) => sides.fresh.db.sql`update placement set uid = ${uid} where message = ${id}`;
  await swap(one!.id, 99);
  await swap(two!.id, one!.uid!);
  await swap(one!.id, two!.uid!);
  await sides.fresh.db.sql`update coming set retry_at = now()`;
  give();
  await sides.see();
  const texts = await Promise.all((await sides.here()).map(({ id }) => readMessage(sides.fresh.context, id)));
  expect(texts.map(({ text }) => text)).toEqual([null, null, "Beds, please: 3.\n"]);
});

test("the same source twice on the server, and copies made meanwhile, have it once here", async () => {
  await sides.fill(1);
  await sides.fill(1);
  withhold();
  await sides.connect();
  expect(await sides.see()).toBe(2);
  const [one] = await sides.here();
  await sides.run([one!.id], { do: "copy", to: "Archive" });
  give();
  await sides.settle();
  const here = await sides.here();
  expect(here.map(({ path }) => path).sort()).toEqual(["Archive", "Inbox", "Inbox"]);
  for (const { id } of here)
    expect(await readMessage(sides.fresh.context, id)).toMatchObject({ source: "here", preview: "Beds, please: 1." });
  expect(await sides.fresh.db.sql`select from content`).toHaveLength(1);
});

test("what is deleted for good before its source came leaves nothing; what the server loses, says so", async () => {
  await headsOnly(2);
  const [one, two] = await sides.here();
  await sides.run([one!.id], { do: "delete for good" });
  await sides.bare.select("INBOX");
  await sides.bare.run(`UID STORE ${two!.uid} +FLAGS (\\Deleted)`);
  await sides.bare.run(`UID EXPUNGE ${two!.uid}`);
  await sides.settle();
  expect((await sides.here()).map(({ id, path }) => [id, path])).toEqual([[two!.id, "Trash"]]);
  expect(await sides.fresh.db.sql`select from content`).toHaveLength(1);
  expect(await sides.fresh.db.sql`select from coming`).toHaveLength(1);
  const { context } = sides.fresh;
  const message = await readMessage(context, two!.id);
  expect(message).toMatchObject({ source: "lost", text: null });
  expect(message.notes.join()).toContain("went with the message there");
  await expect(readRaw(context, two!.id)).rejects.toMatchObject({ status: 409, title: "Its text never came" });
  // What there is of it can be taken along.
  await expect(exportMessages(context, [messageId(two!.id)], "mbox")).resolves.toBeDefined();
});

test("an account that is given up and connected again goes on where it was, without doubles", async () => {
  await headsOnly(3);
  const before = await sides.here();
  const [account] = await listAccounts(sides.fresh.context);
  await deleteAccount(sides.fresh.context, account!.id, "keep");
  expect(await readMessage(sides.fresh.context, before[0]!.id)).toMatchObject({ source: "lost" });
  give();
  await sides.connect();
  await sides.settle();
  const after = await sides.here();
  expect(after.map((row) => row.id)).toEqual(before.map((row) => row.id));
  for (const row of after) expect(await readMessage(sides.fresh.context, row.id)).toMatchObject({ source: "here" });
});

describe("what needs a text that has not come", () => {
  beforeEach(() => headsOnly(2));

  test("is said to be coming, and is asked for before others", async () => {
    const [one, two] = await sides.here();
    const { context } = sides.fresh;
    const notYet = { status: 409, title: "Not here yet" };
    await expect(readRaw(context, one!.id)).rejects.toMatchObject(notYet);
    await expect(
      exportMessages(
        context,
        [one, two].map((row) => messageId(row!.id)),
        "mbox",
      ),
    ).rejects.toMatchObject(notYet);
    await expect(exportAll(context, new Date())).rejects.toMatchObject(notYet);
    await expect(createDraft(context, { kind: "forward", answers: two!.id })).rejects.toMatchObject(notYet);
    const rows = await sides.fresh.db.sql`select from coming where wanted_at is not null`;
    expect(rows).toHaveLength(2);
    give();
    await sides.see();
    await expect(exportAll(context, new Date())).resolves.toBeDefined();
    const draft = await createDraft(context, { kind: "forward", answers: two!.id });
    expect(JSON.stringify(draft.body)).toContain("Beds, please: 2.");
  });

  test("an answer can be begun without its quote", async () => {
    const [one] = await sides.here();
    const draft = await createDraft(sides.fresh.context, { kind: "reply", answers: one!.id });
    expect(draft).toMatchObject({ to: [{ address: "guest1@post.example" }], subject: "Re: number 1" });
    expect(JSON.stringify(draft.body)).not.toContain("quoted");
  });

  test("a macro leaves it alone and says why, and does the rest of its work", async () => {
    const ids = (await sides.here()).map(({ id }) => id);
    const asks = { do: "if", narrow: "please", then: [{ do: "archive" }], else: [{ do: "trash" }] } as const;
    const { entry, skipped } = (await sides.run(ids, asks)) as {
      entry: { changed: number } | null;
      skipped: readonly { reason: string }[];
    };
    expect([entry?.changed ?? 0, skipped.map(({ reason }) => reason)]).toEqual([0, ["coming", "coming"]]);
    const forward = { do: "forward", to: "hut@post.example" } as const;
    const sent = (await sides.run(ids, forward, { do: "archive" })) as { skipped: readonly { reason: string }[] };
    expect(sent.skipped.map(({ reason }) => reason)).toEqual(["coming", "coming"]);
    expect((await sides.here()).map(({ path }) => path)).toEqual(["Inbox", "Inbox"]);
    give();
    await sides.see();
    await sides.run(ids, asks);
    expect((await sides.here()).map(({ path }) => path)).toEqual(["Archive", "Archive"]);
  });
});

test("whoever asks for new mail while texts are brought is told when it was looked for, and not before", async () => {
  await headsOnly(2);
  const { context } = sides.fresh;
  const looks = async () => (await listAccounts(context)).map((account) => account.looks);
  expect(await looks()).toEqual([false]);
  await sides.fill(1, "INBOX", 3);
  expect((await lookNow(context)).map((account) => account.looks)).toEqual([true]);
  give();
  await sides.live(async () => !(await looks()).includes(true));
  expect(await sides.here()).toHaveLength(3);
});
