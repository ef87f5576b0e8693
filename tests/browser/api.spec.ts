import { randomUUID } from "node:crypto";
import { request as httpRequest } from "node:http";
import { expect, test, type App } from "./app";

interface Answer {
  readonly status: number;
  readonly type: string;
  readonly body: Record<string, unknown>;
}

/** A request with exactly these headers: fetch would not let Host or Origin be chosen. */
const raw = (app: App, path: string, headers: Record<string, string>, method = "GET"): Promise<Answer> =>
  new Promise((resolve, reject) => {
    const { port } = new URL(app.address);
    const sent = httpRequest({ host: "127.0.0.1", port, path, method, headers }, (answer) => {
      let text = "";
      answer.on("data", (piece: Buffer) => (text += piece.toString()));
      answer.on("end", () =>
        resolve({
          status: answer.statusCode ?? 0,
          type: answer.headers["content-type"] ?? "",
          body: text.startsWith("{") ? (JSON.parse(text) as Record<string, unknown>) : {},
        }),
      );
    });
    sent.on("error", reject);
    sent.end();
  });

async function send(app: App, method: string, path: string, body?: unknown): Promise<Answer> {
  const answer = await app.fetch(path, {
    method,
    headers: { "content-type": "application/json" },
    ...(body === undefined ? {} : { body: typeof body === "string" ? body : JSON.stringify(body) }),
  });
  const text = await answer.text();
  return {
    status: answer.status,
    type: answer.headers.get("content-type") ?? "",
    body: text === "" ? {} : (JSON.parse(text) as Record<string, unknown>),
  };
}

const isProblem = (answer: Answer, status: number) => {
  expect(answer.status).toBe(status);
  expect(answer.type).toContain("application/problem+json");
  expect(answer.body).toMatchObject({ status, title: expect.any(String), detail: expect.any(String) });
};

test("requests of other sites are refused, whatever name they use for this machine", async ({ app }) => {
  const host = { host: new URL(app.address).host, ...app.headers };
  const path = "/api/v1/home";
  expect((await raw(app, path, host)).status).toBe(200);
  for (const headers of [
    { ...host, host: "evil.example" },
    { ...host, origin: "http://evil.example" },
    { ...host, "sec-fetch-site": "cross-site" },
  ])
    expect((await raw(app, path, headers as unknown as Record<string, string>)).status).toBe(403);
  expect((await raw(app, "/", { host: "evil.example" })).status).toBe(403);
});

test("a run as a script writes it: dry first, then for real, twice with one id, and back", async ({ app }) => {
  const request = {
    id: randomUUID(),
    target: { narrow: "folder=Inbox & from~warden" },
    macro: {
      name: "Wardens in",
      steps: [
        { do: "label", add: "Winter season" },
        { do: "flag", due: "+3d", note: "beds" },
        { do: "if", narrow: "unread", then: [{ do: "read" }], else: [{ do: "pin" }] },
        { do: "move", to: "Wardens" },
      ],
    },
  };
  const matching = await app.count("folder=Inbox & from~warden");
  const dry = await send(app, "POST", "/runs", { ...request, dry: true });
  expect(dry.body).toMatchObject({ totals: { messages: matching }, undoable: true, irreversible: [], asks: [] });
  const [first] = dry.body.messages as { before: object; after: object }[];
  expect(first).toMatchObject({ before: { folder: "Inbox" }, after: { folder: "Wardens" } });
  expect(await app.count("folder=Inbox & from~warden")).toBe(matching);

  const done = await send(app, "POST", "/runs", request);
  expect(done.body).toMatchObject({ changed: matching, asks: [], waiting: [], entry: { state: "done" } });
  const again = await send(app, "POST", "/runs", request);
  expect((again.body.entry as { seq: number }).seq).toBe((done.body.entry as { seq: number }).seq);
  expect(await app.count("folder=Inbox & from~warden")).toBe(0);

  const detail = await send(app, "GET", `/ledger/${request.id}`);
  expect((detail.body.changes as unknown[]).length).toBe(Math.min(200, matching));
  const back = await send(app, "POST", `/ledger/${request.id}/undo`, {});
  expect(back.body).toMatchObject({ restored: matching, skipped: [] });
  expect(await app.count("folder=Inbox & from~warden")).toBe(matching);
  isProblem(await send(app, "POST", `/ledger/${request.id}/undo`, {}), 409);
});

test("what does not fit is said with what to do, and changes nothing", async ({ app }) => {
  const inbox = await app.count("folder=Inbox");
  const run = (macro: unknown, target: unknown = { narrow: "folder=Inbox" }) =>
    send(app, "POST", "/runs", { id: randomUUID(), macro, target });
  isProblem(await run({ name: "x", steps: [{ do: "fly" }] }), 422);
  isProblem(await run({ name: "x", steps: [{ do: "move", to: "Nowhere" }] }), 422);
  isProblem(await run({ name: "x", steps: [{ do: "reply", template: "Nowhere" }] }), 422);
  isProblem(await run({ name: "x", steps: [{ do: "reply", goes: "outbox" }] }), 422);
  isProblem(await run(9_999_999), 404);
  const unread = await run({ name: "x", steps: [{ do: "trash" }] }, { narrow: "form~warden" });
  isProblem(unread, 400);
  expect(unread.body.issues).toMatchObject([{ text: expect.stringContaining("from"), from: 0, to: 4 }]);
  isProblem(await send(app, "POST", "/runs", "{ not json"), 400);
  isProblem(await send(app, "POST", "/runs", `{"a":${"[".repeat(200)}${"]".repeat(200)}}`), 422);
  isProblem(await send(app, "POST", "/folders", { path: "Inbox" }), 409);
  isProblem(await send(app, "POST", "/folders", { path: "a//b" }), 422);
  isProblem(await send(app, "PATCH", "/tasks/1", { title: "" }), 422);
  isProblem(await send(app, "PATCH", "/tasks/123456", { done: true }), 404);
  isProblem(await send(app, "PATCH", "/settings", { ledgerDays: 1 }), 422);
  isProblem(await send(app, "POST", "/packs", { pack: "{}" }), 422);
  isProblem(await send(app, "GET", "/ledger/not-an-id"), 422);
  isProblem(await send(app, "GET", `/ledger/${randomUUID()}`), 404);
  isProblem(await send(app, "GET", "/messages?narrow=(("), 400);
  expect(await app.count("folder=Inbox")).toBe(inbox);
});

test("a deck keeps what a change does not name", async ({ app }) => {
  const [before] = await app.get<{ pads: unknown[]; swipes: Record<string, number> }[]>("/decks");
  expect(Object.keys(before!.swipes)).toHaveLength(4);
  await send(app, "PATCH", "/decks/1", { name: "Renamed" });
  const [after] = await app.get<{ name: string; pads: unknown[]; swipes: object }[]>("/decks");
  expect(after).toEqual({ ...before, name: "Renamed" });
  isProblem(await send(app, "PATCH", "/decks/1", { swipes: { sideways: 1 } }), 422);
  isProblem(await send(app, "PATCH", "/decks/12", { name: "x" }), 404);
});

test("the description and the pages of messages are what they say", async ({ app }) => {
  const described = await send(app, "GET", "/openapi.json");
  expect(described.body).toMatchObject({ openapi: "3.0.3", components: { schemas: { Step: expect.any(Object) } } });
  const seen = new Set<number>();
  let after: string | null = null;
  do {
    const page: { total: number; rows: { id: number }[]; after: string | null } = await app.get(
      `/messages?narrow=folder%3DInbox&order=oldest&limit=150${after ? `&after=${encodeURIComponent(after)}` : ""}`,
    );
    expect(page.total).toBe(400);
    for (const row of page.rows) seen.add(row.id);
    ({ after } = page);
  } while (after);
  expect(seen.size).toBe(400);
});
