import { randomUUID } from "node:crypto";
import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { docOfText } from "@/core/letter";
import { runId } from "@/core/id";
import {
  changeSettings,
  createDraft,
  createFolder,
  createMacro,
  createRule,
  createTemplate,
  deleteRule,
  listRules,
  readLedger,
  readMessage,
  runMacro,
  sendDraft,
  takeBack,
} from "@/server/act";
import { sendDue } from "@/server/jobs";
import { freshDatabase, type Fresh } from "./database";
import { serviceOf } from "./service";

/** What rules do to letters as they are queued. */

let fresh: Fresh;
let arrives: Awaited<ReturnType<typeof serviceOf>>["arrives"];
const macros: Record<string, number> = {};
beforeAll(async () => {
  fresh = await freshDatabase();
  ({ arrives } = await serviceOf(fresh));
  await fresh.db.sql`update simulator set answers = 0, bounces = 0`;
  await changeSettings(fresh.context, { holdSeconds: 0 });
  await createFolder(fresh.context, { path: "Copies" });
  const make = async (name: string, steps: object[]) => {
    macros[name] = (await createMacro(fresh.context, { name, colour: "spruce", steps, settings: {} } as never)).id;
  };
  await createTemplate(fresh.context, { name: "Yes", folder: "", subject: "", body: docOfText("Yes.") });
  await make("Invoiced", [{ do: "label", add: "Invoice" }]);
  await make("Copy there", [{ do: "move", to: "Copies" }]);
  await make("Await it", [{ do: "await an answer", for: "+7d" }]);
  await make("Answer", [{ do: "reply", template: "Yes" }]);
});
afterAll(() => fresh.drop());
afterEach(async () => {
  for (const { id } of await listRules(fresh.context)) await deleteRule(fresh.context, id);
});

const rule = (narrow: string, macro: string | null, more: Partial<Parameters<typeof createRule>[1]> = {}) =>
  createRule(fresh.context, {
    narrow,
    macro: macro === null ? null : macros[macro]!,
    on: true,
    stop: false,
    time: "sending",
    ...more,
  });
async function sends(subject: string, ...to: string[]): Promise<number> {
  const people = (to.length === 0 ? ["bo@post.example"] : to).map((address) => ({ name: "", address }));
  const fields = { kind: "new", answers: null, to: people, subject, body: docOfText("The winter room.") } as const;
  const { id } = await createDraft(fresh.context, fields);
  await sendDraft(fresh.context, id, { id: randomUUID(), version: null, afterwards: null });
  return id;
}
const stateOf = async (message: number) => {
  const [row] = await fresh.db.sql<{ path: string; labels: number; awaits: boolean }[]>`
    select f.path, cardinality(s.labels) as labels, s.await_until is not null as awaits from message_state s
      join folder f on f.person = s.person and f.id = s.folder where s.message = ${message}`;
  return row!;
};
const heldFor = async (message: number): Promise<number> => {
  const [row] = await fresh.db.sql<{ minutes: number }[]>`
    select round(extract(epoch from at - now()) / 60)::int as minutes from held where message = ${message}`;
  return row!.minutes;
};
const gone = () => sendDue(fresh.db, new Date(Date.now() + 1000));

describe("a rule on sending", () => {
  test("sees the letter as it is queued: labels it, awaits an answer, and says where its copy goes", async () => {
    await rule("subject~invoice", "Invoiced");
    await rule("label=Invoice winter", "Copy there");
    await rule("to~post", "Await it");
    const [some, other] = [await sends("Invoice 7"), await sends("Beds", "x@tarn.example")];
    expect(await stateOf(some)).toEqual({ path: "Outbox", labels: 1, awaits: true });
    expect(await stateOf(other)).toEqual({ path: "Outbox", labels: 0, awaits: false });
    await gone();
    expect(await stateOf(some)).toEqual({ path: "Copies", labels: 1, awaits: true });
    expect(await stateOf(other)).toEqual({ path: "Sent", labels: 0, awaits: false });
  });

  test("holds it longer, and is an entry of its own: calling the letter back is one undo", async () => {
    await rule("subject~hold", "Invoiced", { holdMinutes: 30 });
    await rule("subject~hold", null, { holdMinutes: 5 });
    const id = await sends("Hold this");
    expect(await heldFor(id)).toBe(30);
    const [by, sent] = await readLedger(fresh.context, { limit: 2 });
    expect([by, sent]).toMatchObject([{ actor: "rule" }, { actor: "person", macro: { name: "Send: Hold this" } }]);
    expect(await gone()).toBe(0);
    await takeBack(fresh.context, "undo", runId(sent!.id));
    expect(await stateOf(id)).toMatchObject({ path: "Drafts", labels: 1 });
    await takeBack(fresh.context, "undo", runId(by!.id));
    expect(await stateOf(id)).toMatchObject({ path: "Drafts", labels: 0 });
  });

  test("is for letters to many, or to somebody outside; one that stops ends it", async () => {
    await rule("", "Copy there", { moreThan: 2, stop: true });
    await rule("", "Invoiced", { outside: true });
    const inside = await sends("a", "x@larchhuts.example");
    const outside = await sends("b", "x@larchhuts.example", "y@post.example");
    const many = await sends("c", "x@larchhuts.example", "y@post.example", "z@post.example");
    const twice = await sends("d", "x@larchhuts.example", "X@larchhuts.example", "y@larchhuts.example");
    await gone();
    expect(await Promise.all([inside, outside, many, twice].map(stateOf))).toMatchObject([
      { path: "Sent", labels: 0 },
      { path: "Sent", labels: 1 },
      { path: "Copies", labels: 0 },
      { path: "Sent", labels: 0 },
    ]);
  });

  test("is done to letters that macros send, and to no mail that comes in", async () => {
    await rule("", "Invoiced");
    const message = await arrives("Bo <bo@post.example>", "May we?");
    expect((await stateOf(message)).labels).toBe(0);
    await runMacro(fresh.context, {
      id: runId(randomUUID()),
      macro: macros["Answer"]!,
      target: { ids: [message] },
    } as never);
    const [letter] = await fresh.db.sql<{ message: number }[]>`select message from held where state = 'waiting'`;
    expect(await stateOf(letter!.message)).toMatchObject({ path: "Outbox", labels: 1 });
    expect((await readMessage(fresh.context, letter!.message)).subject).toContain("May we?");
    await gone();
  });

  test("that cannot be done stops no letter, and one that would send letters is refused", async () => {
    await expect(rule("", "Answer")).rejects.toThrow("It sends a letter");
    await expect(createRule(fresh.context, { narrow: "", macro: null, on: true, stop: false })).rejects.toMatchObject({
      status: 422,
    });
    const { id } = await rule("folder=Copies | subject~e", "Invoiced");
    await fresh.db
      .sql`update rule set narrow = '{"pieces":["folder=",{"ref":"folder","id":9999,"name":"Gone"}]}' where id = ${id}`;
    const letter = await sends("Yes");
    await gone();
    expect(await stateOf(letter)).toMatchObject({ path: "Sent", labels: 0 });
    expect((await listRules(fresh.context))[0]!.trouble).not.toBeNull();
  });
});
