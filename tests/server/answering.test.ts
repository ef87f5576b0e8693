import { randomUUID } from "node:crypto";
import { simpleParser } from "mailparser";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import {
  changeDraft,
  changeOutgoing,
  changeSettings,
  changeSimulator,
  createDraft,
  createTemplate,
  listMessages,
  listOutgoing,
  readMessage,
  readRaw,
  readSimulator,
  runMacro,
  sendDraft,
  takeBack,
  throwDraftAway,
} from "@/server/act";
import type { RunAnswer } from "@/core/api";
import { runId } from "@/core/id";
import { docOfText } from "@/core/letter";
import { TRAIT } from "@/core/narrow";
import type { Step } from "@/core/macro";
import { receiveDue } from "@/server/gateway";
import { remindDue, sendDue } from "@/server/jobs";
import { freshDatabase, type Fresh } from "./database";
import { QUIET_WORLD, serviceOf } from "./service";

type Service = Awaited<ReturnType<typeof serviceOf>>;
let fresh: Fresh;
let service: Service;
beforeAll(async () => {
  fresh = await freshDatabase();
  service = await serviceOf(fresh);
  await changeSettings(fresh.context, { holdSeconds: 0 });
});
afterAll(() => fresh.drop());
beforeEach(() => changeSimulator(fresh.context, { mode: "well", answers: 0, bounces: 0, answerAfter: 0, utf8: true }));

const world = QUIET_WORLD;
const take = () => service.take();
const arrives: Service["arrives"] = (...of) => service.arrives(...of);
const list = async (narrow: string) =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 1000, after: null })).rows;
const places = async (ids: readonly number[]) =>
  Promise.all(ids.map(async (id) => (await readMessage(fresh.context, id)).folder));
const later = (seconds: number) => new Date(Date.now() + seconds * 1000);

const run = (steps: Step[], ids: readonly number[], answers: Record<string, string> = {}): Promise<RunAnswer> =>
  runMacro(fresh.context, {
    id: randomUUID(),
    macro: { name: "test", steps },
    target: { ids: [...ids] },
    answers,
  });
const send = (id: number, more: { version?: number | null; afterwards?: number | null } = {}) =>
  sendDraft(fresh.context, id, { id: randomUUID(), version: null, afterwards: null, ...more });
/** What a run put on its way. */
const outOf = async ({ entry }: RunAnswer) =>
  (await listOutgoing(fresh.context)).filter((one) => one.run === entry!.id);
const received = async () => (await readSimulator(fresh.context)).received;

describe("a letter", () => {
  test("is written, saved, sent once, and kept in Sent byte for byte", async () => {
    const before = await received();
    const draft = await createDraft(fresh.context, { kind: "new", answers: null });
    const saved = await changeDraft(fresh.context, draft.id, {
      version: draft.version,
      to: [{ name: "Ínes, of the hut", address: "silent.ines@post.example" }],
      cc: [{ name: "", address: "silent.bo@post.example" }],
      bcc: [{ name: "", address: "silent.hidden@post.example" }],
      subject: "Schlüssel für die Hütte",
      body: docOfText("Grüezi\n\nder Schlüssel liegt bereit."),
    });
    expect(await places([draft.id])).toEqual(["Drafts"]);
    await send(draft.id, { version: saved.version });
    expect(await places([draft.id])).toEqual(["Outbox"]);
    const fixed = Buffer.from(await readRaw(fresh.context, draft.id)).toString("hex");
    expect(await sendDue(fresh.db, later(1))).toBe(1);
    expect(await sendDue(fresh.db, later(1))).toBe(0);
    expect(await places([draft.id])).toEqual(["Sent"]);
    expect(await received()).toBe(before + 3);
    const rows = await fresh.db.sql<{ recipient: string; raw: Uint8Array }[]>`
      select recipient, raw from simulated_sent order by id desc limit 3`;
    for (const { raw } of rows) expect(Buffer.from(raw).toString("hex")).toBe(fixed);
    expect(rows.map(({ recipient }) => recipient.split("@")[0]).sort()).toEqual([
      "silent.bo",
      "silent.hidden",
      "silent.ines",
    ]);
    const read = await simpleParser(Buffer.from(rows[0]!.raw));
    expect(read.subject).toBe("Schlüssel für die Hütte");
    expect([read.to].flat()[0]?.value).toEqual([{ name: "Ínes, of the hut", address: "silent.ines@post.example" }]);
    expect(read.text?.trim()).toBe("Grüezi\n\nder Schlüssel liegt bereit.");
    expect(Buffer.from(rows[0]!.raw).toString("latin1")).not.toMatch(/hidden|^bcc/im);
  });

  test("two windows on one draft: the later one is told, and nothing is overwritten", async () => {
    const draft = await createDraft(fresh.context, { kind: "new", answers: null, subject: "one" });
    await changeDraft(fresh.context, draft.id, { version: draft.version, subject: "two" });
    await expect(
      changeDraft(fresh.context, draft.id, { version: draft.version, subject: "three" }),
    ).rejects.toMatchObject({ status: 409, more: { code: "changed-elsewhere" } });
    await expect(send(draft.id, { version: draft.version })).rejects.toMatchObject({ status: 409 });
    expect((await readMessage(fresh.context, draft.id)).subject).toBe("two");
    await throwDraftAway(fresh.context, draft.id);
    expect(await places([draft.id])).toEqual(["Trash"]);
  });

  test("is called back before it goes, and not after", async () => {
    await changeSettings(fresh.context, { holdSeconds: 60 });
    const draft = await createDraft(fresh.context, {
      kind: "new",
      answers: null,
      to: [{ name: "", address: "silent.x@post.example" }],
    });
    const { entry } = await send(draft.id);
    expect(await sendDue(fresh.db, new Date())).toBe(0);
    await takeBack(fresh.context, "undo", runId(entry!.id));
    expect(await places([draft.id])).toEqual(["Drafts"]);
    expect(await listOutgoing(fresh.context)).toEqual([]);
    const again = await send(draft.id);
    await changeSettings(fresh.context, { holdSeconds: 0 });
    await changeOutgoing(fresh.context, draft.id, { do: "now" });
    expect(await sendDue(fresh.db, later(1))).toBe(1);
    await expect(takeBack(fresh.context, "undo", runId(again.entry!.id))).rejects.toMatchObject({
      detail: "It has been sent: nothing calls it back.",
    });
  });

  test("nobody, and what cannot be an address, is refused before anything is written", async () => {
    const draft = await createDraft(fresh.context, { kind: "new", answers: null });
    await expect(send(draft.id)).rejects.toMatchObject({ status: 422, title: "Nobody to send it to" });
    const { version } = await changeDraft(fresh.context, draft.id, {
      version: draft.version,
      to: [{ name: "", address: "a@b.example\r\nBcc: x@y.example" }],
    });
    await expect(send(draft.id, { version })).rejects.toMatchObject({ status: 422, title: "Not an address" });
    expect(await places([draft.id])).toEqual(["Drafts"]);
  });
});

describe("what the service does", () => {
  const letter = async (address: string) => {
    const draft = await createDraft(fresh.context, { kind: "new", answers: null, to: [{ name: "", address }] });
    await send(draft.id);
    return draft.id;
  };
  const stateOf = async (id: number) => (await listOutgoing(fresh.context)).find(({ message }) => message === id);

  test("somebody it does not know: refused, in its words, and called back by hand", async () => {
    const id = await letter("nobody@post.example");
    await sendDue(fresh.db, later(1));
    expect(await stateOf(id)).toMatchObject({
      state: "refused",
      said: expect.stringContaining("there is no such mailbox"),
      recipients: [{ address: "nobody@post.example", state: "refused" }],
    });
    await changeOutgoing(fresh.context, id, { do: "call back" });
    expect(await places([id])).toEqual(["Drafts"]);
    expect(await stateOf(id)).toBeUndefined();
  });

  test("busy: tried again later, with growing pauses, and never twice", async () => {
    await changeSimulator(fresh.context, { mode: "busy" });
    const before = await received();
    const id = await letter("silent.busy@post.example");
    const gaps: number[] = [];
    for (let now = later(1), i = 0; i < 3; i++) {
      await sendDue(fresh.db, now);
      const { at, state } = (await stateOf(id))!;
      expect(state).toBe("later");
      gaps.push(new Date(at).getTime() - now.getTime());
      now = new Date(at);
      await fresh.db.sql`update held set at = now() where message = ${id}`;
      now = later(1);
    }
    expect(gaps[1]).toBeGreaterThan(gaps[0]!);
    expect(gaps[2]).toBeGreaterThan(gaps[1]!);
    await changeSimulator(fresh.context, { mode: "well" });
    expect(await sendDue(fresh.db, later(1))).toBe(1);
    expect(await received()).toBe(before + 1);
    expect(await places([id])).toEqual(["Sent"]);
  });

  test("breaking off: nobody knows, it is never sent again by itself, and the person says what became of it", async () => {
    await changeSimulator(fresh.context, { mode: "breaking" });
    const before = await received();
    const id = await letter("silent.broken@post.example");
    await sendDue(fresh.db, later(1));
    expect(await stateOf(id)).toMatchObject({ state: "unsure" });
    await changeSimulator(fresh.context, { mode: "well" });
    expect(await sendDue(fresh.db, later(3600))).toBe(0);
    expect(await received()).toBe(before + 1);
    await changeOutgoing(fresh.context, id, { do: "it went" });
    expect(await places([id])).toEqual(["Sent"]);
    expect(await stateOf(id)).toBeUndefined();
  });

  test("addresses outside ASCII go where they are taken, and are refused clearly where not", async () => {
    const first = await letter("silent.josé@post.example");
    expect(await sendDue(fresh.db, later(1))).toBe(1);
    await changeSimulator(fresh.context, { utf8: false });
    const second = await letter("silent.josé@post.example");
    expect(await sendDue(fresh.db, later(1))).toBe(0);
    expect(await stateOf(second)).toMatchObject({ state: "refused", said: expect.stringContaining("outside ASCII") });
    expect(await places([first, second])).toEqual(["Sent", "Outbox"]);
  });

  test("a report of what could not be delivered comes as a bounce; a note that nobody is in is no answer", async () => {
    await letter("full@post.example");
    await letter("away@post.example");
    await sendDue(fresh.db, later(1));
    await receiveDue(fresh.db, later(10), world);
    await take();
    const subjects = (await list("folder=Inbox & subject~delivered")).map(({ subject }) => subject);
    expect(subjects).toEqual(["Your message could not be delivered"]);
    expect((await list("folder=Inbox & subject~away")).length).toBe(1);
    const [report] = await fresh.db.sql<{ traits: number }[]>`
      select traits from message where subject = 'Your message could not be delivered'`;
    expect(report!.traits & TRAIT.bounce).toBe(TRAIT.bounce);
  });
});

describe("macros that write", () => {
  test("a template reply goes by itself, threads, marks as answered, and is taken back whole before it goes", async () => {
    await createTemplate(fresh.context, {
      name: "Thanks",
      folder: "",
      subject: "",
      body: docOfText("Hello {first name = friend},\nsee you {date +3d}."),
    });
    const id = await arrives("Ines Okafor <silent.ines@post.example>", "Two beds");
    const steps: Step[] = [{ do: "reply", template: "Thanks", prefix: "[huts] " }, { do: "read" }, { do: "archive" }];
    await changeSettings(fresh.context, { holdSeconds: 60 });
    const ran = await run(steps, [id]);
    const [out] = await outOf(ran);
    expect(await places([id, out!.message])).toEqual(["Archive", "Outbox"]);
    await takeBack(fresh.context, "undo", runId(ran.entry!.id));
    expect(await places([id, out!.message])).toEqual(["Inbox", "Trash"]);
    await changeSettings(fresh.context, { holdSeconds: 0 });
    await run(steps, [id]);
    expect(await sendDue(fresh.db, later(1))).toBe(1);
    const [sent] = await list("folder=Sent & subject~huts");
    expect(sent!.subject).toBe("[huts] Re: Two beds");
    const read = await simpleParser(Buffer.from(await readRaw(fresh.context, sent!.id)));
    const asked = await readMessage(fresh.context, id);
    expect(sent!.thread).toBe(asked.thread);
    const header = asked.headers.find(({ name }) => /^message-id$/i.test(name))!.value;
    expect(read.inReplyTo).toBe(header);
    expect(read.text).toMatch(/^Hello Ines,\nsee you \w+ \d+ \w+ \d{4}\./);
    expect(read.text).toContain("> Hello.");
    expect((await list("answered")).map((row) => row.id)).toEqual([id]);
  });

  test("what a message does not say is asked for, never sent blank", async () => {
    await createTemplate(fresh.context, {
      name: "By number",
      folder: "",
      subject: "",
      body: docOfText("Your number is {captured ref (\\d+)}."),
    });
    const steps: Step[] = [{ do: "reply", template: "By number" }];
    const [told, silent] = [
      await arrives("a@post.example", "Has one", "", "ref 4711 please\r\n"),
      await arrives("b@post.example", "Has none"),
    ];
    const asked = await run(steps, [told, silent]);
    expect(asked.entry).toBeNull();
    expect(asked.asks).toMatchObject([{ kind: "text", message: silent }]);
    const out = await outOf(await run(steps, [told, silent], { [asked.asks[0]!.id]: "unknown" }));
    const texts = await Promise.all(out.map(async ({ message }) => (await readMessage(fresh.context, message)).text));
    expect(texts.map((text) => text!.split("\n")[0]).sort()).toEqual([
      "Your number is 4711.",
      "Your number is unknown.",
    ]);
    await sendDue(fresh.db, later(1));
  });

  const STEPS: Step[] = [{ do: "read" }, { do: "reply" }, { do: "flag", due: "+3d" }, { do: "move", to: "Bookings" }];
  const facts = async (id: number) => {
    const { folder, read, flag } = await readMessage(fresh.context, id);
    return [folder, read, flag !== null];
  };

  test("a draft makes the run wait; sending it goes on, and taking back the run takes back all parts", async () => {
    const id = await arrives("Bo <silent.bo@post.example>", "Key please");
    const ran = await run(STEPS, [id]);
    expect(ran.waiting).toEqual([{ message: id, draft: expect.any(Number) }]);
    const { draft } = ran.waiting[0]!;
    expect(await facts(id)).toEqual(["Inbox", true, false]);
    await changeSettings(fresh.context, { holdSeconds: 60 });
    const sent = await send(draft);
    expect(sent.entry).toMatchObject({ of: ran.entry!.id });
    expect(await facts(id)).toEqual(["Bookings", true, true]);
    // The sending alone: it waits again.
    await takeBack(fresh.context, "undo", runId(sent.entry!.id));
    expect(await facts(id)).toEqual(["Inbox", true, false]);
    expect(await places([draft])).toEqual(["Drafts"]);
    await send(draft);
    expect(await facts(id)).toEqual(["Bookings", true, true]);
    // The run with all its parts.
    await takeBack(fresh.context, "undo", runId(ran.entry!.id));
    expect(await facts(id)).toEqual(["Inbox", false, false]);
    expect(await places([draft])).toEqual(["Trash"]);
    expect((await listOutgoing(fresh.context)).map(({ message }) => message)).not.toContain(draft);
    await changeSettings(fresh.context, { holdSeconds: 0 });
  });

  test("thrown away, the rest is dropped, and undo brings both back", async () => {
    const id = await arrives("Bo <silent.bo@post.example>", "Key again");
    const { waiting } = await run(STEPS, [id]);
    const { draft } = waiting[0]!;
    await throwDraftAway(fresh.context, draft);
    const waits = () => fresh.db.sql`select 1 from pause where draft = ${draft}`;
    expect(await waits()).toHaveLength(0);
    const [entry] = await fresh.db.sql<{ run: string; name: string }[]>`
      select run, name from ledger where kind = 'run' order by seq desc limit 1`;
    expect(entry!.name).toContain("what waited for it is dropped");
    await takeBack(fresh.context, "undo", runId(entry!.run));
    expect(await waits()).toHaveLength(1);
    await send(draft);
    expect(await facts(id)).toEqual(["Bookings", true, true]);
    // A draft moved to the trash by any other run is thrown away, too.
    const other = await arrives("Bo <silent.bo@post.example>", "Key once more");
    const next = (await run(STEPS, [other])).waiting[0]!.draft;
    await run([{ do: "trash" }], [next]);
    expect(await fresh.db.sql`select 1 from pause where draft = ${next}`).toHaveLength(0);
  });

  test("an awaited answer clears by itself; none, and the message comes back", async () => {
    await changeSimulator(fresh.context, { answers: 1 });
    const [keen, silent] = [
      await arrives("Ada <keen.ada@post.example>", "Answer me"),
      await arrives("Udo <silent.udo@post.example>", "I never answer"),
    ];
    const { waiting } = await run(
      [{ do: "reply" }, { do: "await an answer", for: "+5d" }, { do: "archive" }],
      [keen, silent],
    );
    for (const { draft } of waiting) await send(draft);
    await sendDue(fresh.db, later(1));
    const ids = async (narrow: string) => (await list(narrow)).map((row) => row.id);
    expect(await ids("awaited")).toEqual([keen, silent]);
    await receiveDue(fresh.db, later(5), world);
    await take();
    expect(await ids("awaited")).toEqual([silent]);
    const answer = (await list("folder=Inbox & from~keen")).at(-1)!;
    expect(answer.thread).toBe((await readMessage(fresh.context, keen)).thread);
    expect(await remindDue(fresh.db, later(4 * 86_400))).toBe(0);
    expect(await remindDue(fresh.db, later(6 * 86_400))).toBe(1);
    expect(await remindDue(fresh.db, later(6 * 86_400))).toBe(0);
    expect(await places([keen, silent])).toEqual(["Archive", "Inbox"]);
    expect(await ids("awaited")).toEqual([silent]);
  });

  test("fifty replies of which half have gone: taking back says which, and keeps the others", async () => {
    await changeSettings(fresh.context, { holdSeconds: 60 });
    const ids: number[] = [];
    for (let i = 0; i < 50; i++) ids.push(await arrives(`G${i} <silent.g${i}@post.example>`, `Group ${i}`));
    const before = await received();
    const ran = await run([{ do: "reply", template: "Thanks" }, { do: "archive" }], ids);
    const out = await outOf(ran);
    expect(out).toHaveLength(50);
    const first = out.slice(0, 25).map(({ message }) => message);
    await fresh.db.sql`update held set at = now() where message = any(${first})`;
    expect(await sendDue(fresh.db, later(1))).toBe(25);
    const undone = await takeBack(fresh.context, "undo", runId(ran.entry!.id));
    expect(await received()).toBe(before + 25);
    expect(new Set(await places(ids))).toEqual(new Set(["Inbox"]));
    expect(new Set(await places(first))).toEqual(new Set(["Sent"]));
    expect(await outOf(ran)).toEqual([]);
    expect(undone.skipped.filter(({ reason }) => reason === "sent")).toHaveLength(25);
    expect(await sendDue(fresh.db, later(3600))).toBe(0);
    expect(await received()).toBe(before + 25);
  });

  test("a message on its way that is put elsewhere is called off", async () => {
    const id = await arrives("Bo <silent.bo@post.example>", "Off again");
    const ran = await run([{ do: "reply", template: "Thanks" }], [id]);
    const [out] = await outOf(ran);
    await run([{ do: "trash" }], [out!.message]);
    expect(await outOf(ran)).toEqual([]);
    expect(await sendDue(fresh.db, later(3600))).toBe(0);
    expect(await places([out!.message])).toEqual(["Trash"]);
  });
});
