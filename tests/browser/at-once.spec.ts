import { randomUUID } from "node:crypto";
import { expect, test, type App } from "./app";

/** Windows and programs that ask for the same at the same moment: it is done once, or refused in words. */

const TIMES = 12;
const EVENT = { title: "Inspection", start: "2026-12-02T10:00", length: 3600 };
const TEXT = [{ type: "paragraph", content: [{ type: "text", text: "They are open." }] }];

interface Answered {
  /** How many of them were answered with which status. */
  readonly statuses: Readonly<Record<number, number>>;
  /** What one that was done was answered. */
  readonly value: { readonly id: number } | null;
}

async function allAtOnce(app: App, method: string, path: string, body?: unknown): Promise<Answered> {
  const sent =
    body === undefined ? {} : { body: JSON.stringify(body), headers: { "content-type": "application/json" } };
  const answers = await Promise.all(
    Array.from({ length: TIMES }, async () => {
      const answer = await app.fetch(path, { method, ...sent });
      return { status: answer.status, text: await answer.text() };
    }),
  );
  const statuses: Record<number, number> = {};
  for (const { status } of answers) statuses[status] = (statuses[status] ?? 0) + 1;
  const text = answers.find(({ status }) => status < 300)?.text;
  return { statuses, value: text ? (JSON.parse(text) as { id: number }) : null };
}

/** Things that have a name, or a place, of which there is one. */
const NAMED: readonly (readonly [path: string, made: Readonly<Record<string, unknown>>, patch: object])[] = [
  ["/folders", { path: "Winter/Doors" }, { path: "Winter/Gates" }],
  ["/labels", { name: "Doors" }, { name: "Gates" }],
  ["/markers", { letter: "X", meaning: "doors" }, { meaning: "gates" }],
  ["/batches", { name: "Doors", narrow: "subject~door" }, { name: "Gates" }],
  ["/macros", { name: "Fetch", steps: [{ do: "flag" }] }, { name: "Bring" }],
  ["/templates", { name: "Doors", body: { type: "doc", content: TEXT } }, { name: "Gates" }],
  ["/groups", { name: "Doors", members: ["ines@larch.example"] }, { name: "Gates" }],
];

test("of what has a name one is made, however many make it at once; it is changed by all, and goes once", async ({
  app,
}) => {
  for (const [path, body, patch] of NAMED) {
    const made = await allAtOnce(app, "POST", path, body);
    expect({ path, made: made.statuses }).toEqual({ path, made: { 201: 1, 409: TIMES - 1 } });
    const at = `${path}/${made.value!.id}`;
    expect({ path, changed: (await allAtOnce(app, "PATCH", at, patch)).statuses }).toEqual({
      path,
      changed: { 200: TIMES },
    });
    const { statuses } = await allAtOnce(app, "DELETE", at);
    const done = (statuses[200] ?? 0) + (statuses[204] ?? 0);
    // A macro that is gone may be asked to go once more: it lies there still.
    expect({ path, done, refused: statuses[404] ?? 0 }).toEqual(
      path === "/macros" ? { path, done: TIMES, refused: 0 } : { path, done: 1, refused: TIMES - 1 },
    );
  }
});

test("what may be there several times is made by each, goes once, and is brought back by all", async ({ app }) => {
  const { macros } = await app.get<{ macros: { id: number }[] }>("/home");
  const all = { at: EVENT.start, scope: "all" };
  for (const [path, body, patch, gone] of [
    ["/tasks", { title: "Ring the ferry" }, { done: true }, undefined],
    ["/events", EVENT, { ...all, title: "Gates" }, all],
    ["/calendars", { name: "Doors" }, { name: "Gates" }, undefined],
    ["/identities", { name: "Ines", address: "doors@larchhuts.example" }, { name: "I" }, undefined],
    ["/hours", { narrow: "subject~door", week: [{ day: 0, from: 0, to: 60 }] }, { on: false }, undefined],
    ["/rules", { narrow: "subject~door", macro: macros[0]!.id }, { on: false }, undefined],
  ] as const) {
    const { statuses: made, value } = await allAtOnce(app, "POST", path, body);
    const at = `${path}/${value!.id}`;
    const changed = (await allAtOnce(app, "PATCH", at, patch)).statuses;
    const went = (await allAtOnce(app, "DELETE", at, gone)).statuses;
    expect({ path, made, changed, went }).toEqual({
      path,
      made: { 201: TIMES },
      changed: { 200: TIMES },
      went: { 204: 1, 404: TIMES - 1 },
    });
    // What lies in the ledger is brought back by undo instead.
    if (!["/tasks", "/events", "/calendars"].includes(path))
      expect((await allAtOnce(app, "PATCH", at, { deleted: false })).statuses).toEqual({ 200: TIMES });
  }
});

test("what all say alike is as they say, and a first password is that of one of them", async ({ app }) => {
  for (const [method, path, body, done] of [
    ["POST", "/filing/reset", { anew: true }, { 204: TIMES }],
    ["POST", "/contacts", { name: "", address: "doors@larchhuts.example" }, { 201: TIMES }],
    ["POST", "/blocked", { address: "ads@shop.example" }, { 201: TIMES }],
    ["POST", "/decks", { number: 9, name: "Doors" }, { 201: 1, 409: TIMES - 1 }],
    ["PATCH", "/decks/9", { name: "Gates" }, { 200: TIMES }],
    ["PATCH", "/lists/Doors", { add: ["ines@larch.example"] }, { 200: TIMES }],
  ] as const)
    expect({ path, done: (await allAtOnce(app, method, path, body)).statuses }).toEqual({ path, done });
  const { statuses } = await allAtOnce(app, "POST", "/password", { old: "", password: "seven larches by the lake" });
  // Whoever comes after it has to know it, and has so many attempts.
  expect({ set: statuses[204], refused: (statuses[422] ?? 0) + (statuses[429] ?? 0) }).toEqual({
    set: 1,
    refused: TIMES - 1,
  });
});

test("a run is done once, taken back once and done again once; a letter goes once", async ({ app }) => {
  const entries = async () => (await app.get<{ id: string; kind: string }[]>("/ledger?limit=100")).map(({ id }) => id);
  const before = await entries();
  const [run, undo, redo, sending] = Array.from({ length: 4 }, () => randomUUID());
  const flagged = await app.count("folder=Inbox flagged");
  const mail = await app.count("folder=Inbox");
  const macro = { name: "Flag", steps: [{ do: "flag" }] };
  const wanted = { id: run, macro, target: { narrow: "folder=Inbox", order: "newest" }, answers: {} };
  for (const [path, body, then] of [
    ["/runs", wanted, mail],
    [`/ledger/${run}/undo`, { id: undo }, flagged],
    [`/ledger/${run}/redo`, { id: redo }, mail],
  ] as const) {
    expect({ path, ...(await allAtOnce(app, "POST", path, body)).statuses }).toEqual({ path, 200: TIMES });
    expect({ path, flagged: await app.count("folder=Inbox flagged") }).toEqual({ path, flagged: then });
  }
  const to = [{ name: "", address: "ines@larch.example" }];
  const draft = await allAtOnce(app, "POST", "/drafts", { id: randomUUID(), to, subject: "Doors" });
  expect(draft.statuses).toEqual({ 201: TIMES });
  const sent = await allAtOnce(app, "POST", `/drafts/${draft.value!.id}/send`, { id: sending });
  expect(sent.statuses).toEqual({ 200: TIMES });
  expect((await app.get<{ message: number }[]>("/outgoing")).map(({ message }) => message)).toEqual([draft.value!.id]);
  expect((await entries()).length).toBe(before.length + 4);
});
