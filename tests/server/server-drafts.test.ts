import { randomUUID } from "node:crypto";
import { afterAll, afterEach, beforeAll, beforeEach, expect, test } from "vitest";
import { docOfText } from "@/core/letter";
import { runId } from "@/core/id";
import { changeDraft, createDraft, deleteAccount, sendDraft, takeBack, throwDraftAway } from "@/server/act";
import { sendDue } from "@/server/jobs";
import { letter, startMailService, type MailService } from "../fixtures/mail-service";
import { Sides } from "./sides";

/** Drafts are on the server as they were left, for another program to see. */

let service: MailService;
let sides: Sides;
let account: number;
let next = 0;
beforeAll(async () => {
  service = await startMailService(["d0", "d1", "d2", "d3"]);
});
afterAll(() => service.end());
beforeEach(async () => {
  sides = await Sides.open(service, `d${next++}`);
  ({ id: account } = await sides.connect());
  await sides.see();
});
afterEach(() => sides.end());

const write = (subject: string) =>
  createDraft(sides.fresh.context, {
    kind: "new",
    answers: null,
    to: [{ name: "", address: "guest@post.example" }],
    subject,
    body: docOfText("Dear guest,"),
  });

/** What another program sees: subject, flags, and the last line of the text. */
async function seen(): Promise<string[]> {
  const lines: string[] = [];
  for (const { uid, flags } of await sides.bare.list("Drafts")) {
    await sides.bare.select("Drafts");
    const said = await sides.bare.run(`UID FETCH ${uid} BODY.PEEK[]`);
    const subject = /^Subject: (.*)$/im.exec(said)?.[1]?.trim();
    const text = /Dear guest,[^<\r\n]*/.exec(said)?.[0].trim() ?? "";
    lines.push([subject, text, ...flags].join(" | "));
  }
  return lines;
}

test("a draft is there as it was left, once, and is gone from there when it was sent", async () => {
  const draft = await write("Six beds");
  await sides.see();
  expect(await seen()).toEqual(["Six beds | Dear guest, | \\Draft | \\Seen"]);
  const changed = await changeDraft(sides.fresh.context, draft.id, {
    version: draft.version,
    left: true,
    body: docOfText("Dear guest, they are free."),
  });
  await sides.see();
  expect(await seen()).toEqual(["Six beds | Dear guest, they are free. | \\Draft | \\Seen"]);
  sides.changing();
  await sides.settle();
  expect(sides.changing()).toEqual([]);
  expect(await sides.here()).toHaveLength(1);
  await sides.fresh.db.sql`update person set settings = settings || '{"holdSeconds": 0}'`;
  await sendDraft(sides.fresh.context, draft.id, { id: randomUUID(), version: changed.version, afterwards: null });
  await sendDue(sides.fresh.db, new Date());
  await sides.settle();
  expect(await seen()).toEqual([]);
  expect(await sides.there("Sent")).toHaveLength(1);
});

test("one that is thrown away is taken off, and undo puts it there again; drafts of others are left alone", async () => {
  await sides.bare.append("Drafts", letter(7), ["\\Draft"]);
  const draft = await write("Two beds");
  await sides.see();
  expect(await sides.bare.list("Drafts")).toHaveLength(2);
  await throwDraftAway(sides.fresh.context, draft.id);
  await sides.see();
  expect(await sides.there("Drafts")).toEqual(["<m7@post.example> \\Draft"]);
  const [entry] = await sides.fresh.db.sql<{ id: string }[]>`select run as id from ledger order by seq desc limit 1`;
  await takeBack(sides.fresh.context, "undo", runId(entry!.id));
  await sides.see();
  expect(await seen()).toContain("Two beds | Dear guest, | \\Draft | \\Seen");
  await deleteAccount(sides.fresh.context, account, "keep");
  expect(await sides.bare.list("Drafts")).toHaveLength(2);
});

test("a line that breaks behind the command leaves one copy; one deleted there is not put there again", async () => {
  await write("Eight beds");
  service.wire.cutAfter = /^APPEND/;
  expect(await sides.see()).toBeNull();
  await sides.another();
  await sides.settle();
  expect(await seen()).toEqual(["Eight beds | Dear guest, | \\Draft | \\Seen"]);
  await sides.bare.select("Drafts");
  await sides.bare.run("STORE 1 +FLAGS (\\Deleted)");
  await sides.bare.run("EXPUNGE");
  await sides.settle();
  expect(await seen()).toEqual([]);
  expect((await sides.here()).map(({ path }) => path)).toEqual(["Drafts"]);
});

test("a server that takes no drafts keeps nothing else from being done", async () => {
  service.wire.refuse = (command) => (command.startsWith("APPEND") ? "NO no drafts here" : null);
  await write("One bed");
  await sides.fill(1);
  expect(await sides.see()).toBe(1);
  await sides.run([(await sides.byId(1)).id], { do: "archive" });
  expect(await sides.see()).toBe(0);
  expect(await sides.there("Archive")).toEqual(["<m1@post.example>"]);
});
