import { execFile } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { sampleOf, type Schemas } from "../fixtures/hostile";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";
import { endWeb, startWeb, type WebApp } from "./web";

/** Programs that act for somebody: what a token lets them do, and the command line that holds one. */

interface Description {
  readonly paths: Readonly<
    Record<string, Record<string, { requestBody?: { content: Record<string, { schema: object }> } }>>
  >;
  readonly components: { readonly schemas: Schemas };
}
type Scope = "read" | "decide" | "send";

const COUNT = 30;
let fresh: Fresh;
let app: WebApp;
let folder: string;
const tokens = {} as Record<Scope, string>;

const call = (method: string, path: string, headers: Record<string, string>, body?: unknown) =>
  fetch(app.base + path, {
    method: method.toUpperCase(),
    headers: { ...headers, ...(body === undefined ? {} : { "content-type": "application/json" }) },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
const bearer = (token: string) => ({ authorization: `Bearer ${token}` });
const asPerson = () => app.headers as Record<string, string>;
async function newToken(scopes: readonly Scope[], days: number | null = 1): Promise<string> {
  const made = await call("post", "/tokens", asPerson(), { name: scopes.join(), scopes, days });
  expect(made.status).toBe(201);
  return ((await made.json()) as { token: string }).token;
}
async function listed(): Promise<{ id: string; name: string; scopes: Scope[]; used: number | null }[]> {
  return (await (await call("get", "/tokens", asPerson())).json()) as never;
}

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "tachyne-programs-"));
  fresh = await freshDatabase();
  await fillWithMessages(fresh, COUNT);
  app = await startWeb(fresh.url);
  for (const scope of ["read", "decide", "send"] as const) tokens[scope] = await newToken([scope]);
});
afterAll(async () => {
  await endWeb(app);
  await fresh.drop();
  rmSync(folder, { recursive: true, force: true });
});

/** What only the person does, signed in. */
const OWN =
  /^\/(sign-in|sessions|password|passkeys|codes|tokens|invitations)(\/|$)|^(post|patch|delete) \/accounts(\/|$)/;
/** What goes out, is given out, or may go out later by a rule. */
const SENDS = [
  "post /drafts/{id}/send",
  "patch /outgoing/{id}",
  "post /senders/leave",
  "post /events/{id}/invite",
  "post /events/{id}/tell",
  "post /messages/{id}/invitation",
  "post /ledger/{id}/redo",
  "post /calendars/{id}/address",
  "delete /calendars/{id}/address",
  "post /packs",
  ...["macros", "rules", "templates"].flatMap((room) => [
    `post /${room}`,
    `patch /${room}/{id}`,
    `delete /${room}/{id}`,
  ]),
  "post /rules/trial",
  "post /rules/sieve",
  "post /rules/{id}/except",
];
/** Anybody may. */
const OPEN =
  /^(get \/sign-in|post \/sign-in(\/|$)|get \/sign-in\/|get \/health|get \/ready|get \/calendar-addresses\/)/;

describe("a token", () => {
  test("lets a program do what it says, by every route there is, and nothing that is the person's alone", async () => {
    const api = (await (await call("get", "/openapi.json", {})).json()) as Description;
    const wrong: string[] = [];
    const told = new Map<string, Scope>();
    for (const [path, operations] of Object.entries(api.paths))
      for (const [method, { requestBody }] of Object.entries(operations)) {
        const at = `${method} ${path}`;
        if (OPEN.test(at)) continue;
        const own = OWN.test(path) || OWN.test(at);
        const needed: Scope | null = own
          ? null
          : SENDS.includes(at)
            ? "send"
            : method === "get" || at === "post /export"
              ? "read"
              : "decide";
        if (needed) told.set(at, needed);
        const schema = requestBody?.content["application/json"]?.schema;
        const body = schema && sampleOf(schema, api.components.schemas);
        // Numbers that nothing has: a token that may is told so.
        const there = path.replace(/\{id\}/g, "999999").replace(/\{\w+\}/g, "none");
        for (const scope of ["read", "decide", "send"] as const) {
          if (scope === needed && method !== "get") continue;
          const response = await call(method, there, bearer(tokens[scope]), body);
          await response.body?.cancel();
          const { headers } = response;
          if (!headers.get("cache-control")?.includes("no-store")) wrong.push(`${at} may be kept by a cache`);
          if (headers.get("x-content-type-options") !== "nosniff") wrong.push(`${at} may be taken for something else`);
          const isKept = response.status === 403;
          if (isKept !== (scope !== needed)) wrong.push(`${scope}: ${at}: ${response.status}`);
        }
      }
    expect(wrong).toEqual([]);
    // A route that this list names and the description does not would hide one that is open.
    expect(SENDS.filter((at) => !told.has(at))).toEqual([]);
    expect(told.size).toBeGreaterThan(100);
  });

  test("is as good as what it may: a macro that writes to others takes one that may send", async () => {
    const run = (token: string, steps: object[], id: string) =>
      call("post", "/runs", bearer(token), {
        id,
        macro: { name: "x", steps },
        target: { narrow: "folder=Inbox", order: "newest" },
      });
    const outgoing = async () => ((await (await call("get", "/outgoing", asPerson())).json()) as unknown[]).length;
    const reply = [{ do: "reply", goes: "outbox", template: "Confirmation" }];
    const both = await newToken(["read", "decide"]);
    const read = await run(tokens.decide, [{ do: "read" }], "5b1c0000-0000-4000-8000-00000000aa01");
    expect(read.status).toBe(200);
    const refused = await run(
      both,
      [{ do: "if", narrow: "unread", then: [], else: reply }],
      "5b1c0000-0000-4000-8000-00000000aa02",
    );
    expect(refused.status).toBe(403);
    expect(await outgoing()).toBe(0);
    const all = await newToken(["read", "decide", "send"]);
    expect((await run(all, reply, "5b1c0000-0000-4000-8000-00000000aa03")).status).toBe(200);
    expect(await outgoing()).toBe(COUNT);
  });

  test("is known by its digest, is over when it is ended or its time is, and is nothing in a cookie or altered", async () => {
    const token = await newToken(["read"], 1);
    const home = async (given: string) => (await call("get", "/home", bearer(given))).status;
    expect(await home(token)).toBe(200);
    const [row] = await fresh.db.sql<{ hex: string }[]>`
      select encode(hash, 'hex') as hex from token order by created_at desc limit 1`;
    const { createHash } = await import("node:crypto");
    expect(row!.hex).toBe(createHash("sha256").update(token.split(".")[1]!).digest("hex"));
    for (const none of ["", "x", token.slice(0, -1), token.replace(/^\d+/, "2"), token.toUpperCase()])
      expect(await home(none), none).toBe(401);
    const name = asPerson().cookie!.split("=")[0]!;
    expect((await call("get", "/home", { cookie: `${name}=${token}` })).status).toBe(401);
    expect((await call("get", "/home", bearer(asPerson().cookie!.slice(name.length + 1)))).status).toBe(401);
    const [mine] = await listed();
    expect(mine).toMatchObject({ name: "read", scopes: ["read"] });
    expect(mine!.used).not.toBeNull();
    await fresh.db.sql`update token set ends_at = now() - interval '1 second' where id = ${mine!.id}`;
    expect(await home(token)).toBe(401);
    const other = await newToken(["read"], null);
    const [last] = await listed();
    expect((await call("delete", `/tokens/${last!.id}`, asPerson())).status).toBe(204);
    expect(await home(other)).toBe(401);
    expect((await call("delete", `/tokens/${last!.id}`, asPerson())).status).toBe(404);
  });
});

interface Done {
  readonly code: number;
  readonly out: string;
  readonly said: string;
}
const cli = (args: readonly string[], token = "", url = app.base.replace("/api/v1", "")) =>
  new Promise<Done>((resolve) => {
    const env = { ...process.env, TACHYNE_URL: url, TACHYNE_TOKEN: token };
    execFile(process.execPath, ["bin/tachyne.mjs", ...args], { env }, (error, out, said) =>
      resolve({ code: error ? Number(error.code) : 0, out, said }),
    );
  });

describe("the command line", () => {
  const inFolder = async (path: string) =>
    (
      await fresh.db.sql<{ n: number }[]>`select count(*)::int as n from message_state s
        join folder f on f.person = s.person and f.id = s.folder where f.path = ${path}`
    )[0]!.n;

  test("lists, says beforehand, runs, takes back and does again, each as the API would", async () => {
    const token = await newToken(["read", "decide", "send"]);
    const before = await inFolder("Archive");
    expect((await cli(["macros"], token)).out).toMatch(/^Archive {2}\(\d steps?\)$/m);
    const list = await cli(["list", "folder=Inbox", "--limit", "3"], token);
    expect(list.code).toBe(0);
    expect(list.out.trim().split("\n")).toHaveLength(4);
    const total = await inFolder("Inbox");
    expect(list.out).toContain(`${total} messages`);
    expect(list.out.split("\n")[0]!.split("\t")).toEqual([
      expect.stringMatching(/^\d+$/),
      expect.stringMatching(/^2026-11-01T/),
      expect.stringMatching(/^Sender \d$/),
      expect.stringMatching(/^number \d+$/),
    ]);
    const dry = await cli(["run", "archive", "--on", "folder=Inbox", "--dry"], token);
    expect(dry.out).toContain('folder: "Inbox" → "Archive"');
    expect(await inFolder("Archive")).toBe(before);
    const once = ["run", "archive", "--on", "folder=Inbox", "--id", "5b1c0000-0000-4000-8000-00000000aa09"];
    const run = await cli(once, token);
    // The same id again does nothing twice, and says the same.
    expect(await cli(once, token)).toEqual(run);
    expect(run.out).toContain(`${total} messages`);
    expect(await inFolder("Archive")).toBe(before + total);
    expect(await inFolder("Inbox")).toBe(0);
    expect((await cli(["undo"], token)).out).toContain(`Took back Archive: ${total} messages.`);
    expect(await inFolder("Inbox")).toBe(total);
    expect((await cli(["redo"], token)).out).toContain(`Did again Archive: ${total} messages.`);
    const id = /undo ([0-9a-f-]{36})/.exec(run.out)![1]!;
    expect(JSON.parse((await cli(["ledger", "--json"], token)).out)).toContainEqual(expect.objectContaining({ id }));
    await cli(["undo"], token);
    expect(await inFolder("Archive")).toBe(before);
  });

  test("exports to a file, and never over one that is there", async () => {
    const file = join(folder, "all.mbox");
    expect(await cli(["export", "folder=Inbox", "--out", file], tokens.read)).toMatchObject({
      code: 0,
      out: `${file}\n`,
    });
    const text = readFileSync(file, "utf8");
    expect(text.match(/^From /gm)).toHaveLength(await inFolder("Inbox"));
    const again = await cli(["export", "folder=Inbox", "--out", file], tokens.read);
    expect(again).toMatchObject({ code: 1, said: `${file} is there already.\n` });
    expect(readFileSync(file, "utf8")).toBe(text);
    const none = join(folder, "none.zip");
    expect((await cli(["export", "(", "--out", none], tokens.read)).code).toBe(1);
    expect(existsSync(none)).toBe(false);
  });

  test("says what was wrong, and what to do, with a code of its own", async () => {
    const { read } = tokens;
    expect(await cli([], read)).toMatchObject({ code: 2 });
    expect((await cli(["fly"], read)).said).toContain('There is no command "fly".');
    expect((await cli(["constructor"], read)).code).toBe(2);
    expect((await cli(["list", "x", "--frob"], read)).code).toBe(2);
    expect((await cli(["macros"])).said).toContain("TACHYNE_TOKEN");
    expect(await cli(["macros"], "1.x")).toMatchObject({ code: 1, said: expect.stringContaining("Not signed in") });
    expect((await cli(["run", "Nothing so", "--on", "x"], read)).said).toContain('There is no macro "Nothing so"');
    expect((await cli(["run", "Archive", "--on", "x"], read)).said).toContain("this takes one that may decide");
    expect((await cli(["list", "unread &"], read)).code).toBe(1);
    expect(await cli(["macros"], read, "http://127.0.0.1:9")).toMatchObject({
      code: 1,
      said: expect.stringContaining("does not answer"),
    });
  });
});
