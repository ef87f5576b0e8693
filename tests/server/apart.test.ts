import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { personId } from "@/core/id";
import { createTask } from "@/server/act";
import { gate } from "../fixtures/at-once";
import { sampleOf, withEachPart, type Schemas } from "../fixtures/hostile";
import {
  ask,
  asking,
  closeTwo,
  database,
  make,
  names,
  openTwo,
  SECRET,
  theirs,
  THEIRS,
  type Answer,
} from "./two-people";

/**
 * Nobody sees another's mail, or anything else of theirs, and nobody changes it: one person asks for all that there is
 * by the numbers and names of another's.
 */

interface Operation {
  readonly parameters: readonly { readonly name: string; readonly in: "path" | "query" }[];
  readonly requestBody?: { readonly content: Readonly<Record<string, { readonly schema: object }>> };
}
interface Description {
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  readonly components: { readonly schemas: Schemas };
}

let api: Description;
beforeAll(async () => {
  await openTwo();
  api = JSON.parse((await ask("get", "/openapi.json")).text) as Description;
});
afterAll(closeTwo);

/** Numbers of a person's own, from 1 on: the same ones mean what is whoever asks's. */
const OF_ONES_OWN = ["/markers/{id}", "/decks/{id}"];
/** What is not known under a name is empty, or made; and whoever has a calendar's address reads it, as it is meant to. */
const ANSWERS = [
  "get /lists/{name}",
  "patch /lists/{name}",
  "get /contacts/{address}",
  "get /calendar-addresses/{secret}",
];

/** The path, as it leads to the other's. */
function theirPath(path: string): string {
  const [, kind = ""] = path.split("/");
  return path.replace(/\{(\w+)\}/g, (_, part: string) => {
    if (part === "index") return "0";
    const name = part === "file" ? names.file : names[kind];
    if (name === undefined) throw new Error(`what is another's at ${path}? Say so in this test`);
    return encodeURIComponent(name);
  });
}

const SERVERS = { host: "127.0.0.1", port: 1, security: "tls" };
/** Bodies that are taken where something is one's own; without them a refusal would say nothing. */
const FITTING: Readonly<Record<string, unknown>> = {
  "post /drafts/{id}/send": { id: "5b1c0000-0000-4000-8000-00000000000d" },
  "post /drafts/{id}/files": SECRET,
  "post /tasks/{id}/time": {},
  "patch /tasks/{id}": { title: "taken", done: true },
  "post /events/{id}/invite": { people: [{ address: "y@post.example" }] },
  "post /events/{id}/tell": { what: "changed" },
  "post /rules/{id}/except": { ids: [1] },
  "patch /events/{id}": { at: "2026-12-01T10:00", scope: "all", title: "taken" },
  "delete /events/{id}": { at: "2026-12-01T10:00", scope: "all" },
  "patch /outgoing/{id}": { do: "call back" },
  "post /messages/{id}/invitation": { do: "note" },
  "post /calendars/{id}/ics": "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nEND:VCALENDAR\r\n",
  "patch /lists/{name}": { add: ["y@post.example"], remove: [] },
  "patch /hours/{id}": { narrow: "subject~x", on: false },
  "patch /identities/{id}": { name: "taken", address: "y@post.example" },
  "patch /groups/{id}": { name: "taken", members: ["y@post.example"] },
  "patch /accounts/{id}": {
    name: "taken",
    secret: "x",
    servers: { imap: SERVERS, smtp: SERVERS, user: "a", method: "password" },
  },
};
const schemaOf = ({ requestBody }: Operation) => requestBody?.content["application/json"]?.schema;
const each = function* (): Generator<readonly [at: string, method: string, path: string, operation: Operation]> {
  for (const [path, operations] of Object.entries(api.paths))
    for (const [method, operation] of Object.entries(operations)) yield [`${method} ${path}`, method, path, operation];
};
const AT_ONCE = 6;
/** What names it is no telling of it. */
const withoutNames = (text: string) => Object.values(names).reduce((rest, name) => rest.replaceAll(name, "…"), text);

/** What anybody may ask: coming in, whether the app is there, and a calendar by its secret address. */
const OPEN = [
  "get /sign-in",
  "post /sign-in",
  "post /sign-in/first",
  "post /sign-in/link",
  "post /sign-in/invited",
  "get /sign-in/passkey",
  "post /sign-in/passkey",
  "get /health",
  "get /ready",
  "get /calendar-addresses/{secret}",
];

test("whoever is not signed in is told so, by every route but those that let them in", async () => {
  const before = await theirs();
  const wrong: string[] = [];
  const { cookie } = asking().headers;
  const forged = [
    {},
    { cookie: "tachyne=1" },
    { cookie: cookie!.slice(0, -1) },
    // Another's number before a secret that is good for oneself.
    { cookie: cookie!.replace(/=\d+\./, `=${THEIRS}.`) },
  ];
  for (const headers of forged)
    for (const [at, method, path, operation] of each()) {
      const schema = schemaOf(operation);
      const body = schema && sampleOf(schema, api.components.schemas);
      const { status, text } = await ask(method, path.replace(/\{\w+\}/g, "1"), body, headers);
      if (!OPEN.includes(at) && status !== 401) wrong.push(`${at}: ${status}`);
      if (OPEN.includes(at) && method === "post" && status < 400) wrong.push(`${at} lets in: ${text}`);
    }
  for (const path of ["/index", "/words?needle=a", "/tasks/open"])
    if ((await ask("get", path, undefined, {})).status !== 401) wrong.push(path);
  expect(wrong).toEqual([]);
  expect(await theirs()).toEqual(before);
});

describe("nobody sees another's", () => {
  test("by what it is called: it is as if it were not there", async () => {
    const before = await theirs();
    const wrong: string[] = [];
    let asked = 0;
    for (const [at, method, path, operation] of each()) {
      if (!path.includes("{") || OF_ONES_OWN.includes(path)) continue;
      const schema = schemaOf(operation);
      const body = FITTING[at] ?? (schema && sampleOf(schema, api.components.schemas));
      const { status, text } = await ask(method, theirPath(path), body);
      asked++;
      const isAnswered = ANSWERS.includes(at) && status < 300;
      if (status !== 404 && !isAnswered) wrong.push(`${at} ${JSON.stringify(body)}: ${status} ${text.slice(0, 300)}`);
      if (withoutNames(text).includes(SECRET) && at !== "get /calendar-addresses/{secret}")
        wrong.push(`${at} tells: ${text.slice(0, 300)}`);
    }
    expect(wrong).toEqual([]);
    expect(asked).toBeGreaterThan(50);
    expect(await theirs()).toEqual(before);
  });

  test("in whatever is listed, searched, counted or exported", async () => {
    const wrong: string[] = [];
    const queries = [
      "",
      `?narrow=${SECRET}`,
      `?narrow=folder%3D${SECRET}`,
      `?ids=${names.messages}`,
      `?message=${names.messages}`,
    ];
    const paced = [
      "from=2026-10-01",
      "to=2026-11-28",
      "by=day",
      "figure=senders",
      `place=${names.folders}`,
      `account=${names.accounts}`,
    ];
    for (const [at, method, path, { parameters }] of each()) {
      if (method !== "get" || path.includes("{")) continue;
      const isPaced = parameters.some(({ name }) => name === "place");
      for (const query of [
        ...queries,
        ...(isPaced ? [`?${paced.join("&")}`, `?${paced.slice(0, 4).join("&")}`] : []),
      ]) {
        const { status, text } = await ask("get", path + query);
        if (status >= 500) wrong.push(`${at}${query}: ${status}`);
        if (status < 300 && withoutNames(text).includes(SECRET))
          wrong.push(`${at}${query} tells ${text.slice(0, 200)}`);
      }
    }
    for (const path of ["/index", "/index?since=0", `/words?ids=${names.messages}`, "/tasks/open"])
      if ((await ask("get", path)).text.includes(SECRET)) wrong.push(path);
    expect(wrong).toEqual([]);
  });

  test("by bodies that name it: nothing of it is changed or told", { timeout: 240_000 }, async () => {
    const { enter, empty } = gate(AT_ONCE);
    const before = await theirs();
    const wrong: string[] = [];
    const { messages, folders, macros, drafts, calendars } = names as Record<string, string>;
    const numbers = [messages, folders, macros, drafts, calendars].map(Number);
    let asked = 0;
    for (const [at, method, path, operation] of each()) {
      const schema = schemaOf(operation);
      if (!schema || /\{|practice|simulator|accounts/.test(path)) continue;
      const body = sampleOf(schema, api.components.schemas);
      for (const name of [...numbers, names.ledger, [Number(messages)]])
        for (const changed of withEachPart(body, name))
          await enter(async () => {
            const { status, text } = await ask(method, path, changed);
            asked++;
            if (status >= 500) wrong.push(`${at} ${JSON.stringify(changed)}: ${status}`);
            if (withoutNames(text).includes(SECRET))
              wrong.push(`${at} ${JSON.stringify(changed)} tells ${text.slice(0, 200)}`);
          });
    }
    await empty();
    expect(wrong).toEqual([]);
    expect(asked).toBeGreaterThan(1000);
    expect(await theirs()).toEqual(before);
  });

  test("in what runs name: messages, folders and macros of another's are none", async () => {
    const before = await theirs();
    const messages = [Number(names.messages), Number(names.messages) + 1];
    const run = (n: number, more: object) =>
      ask("post", "/runs", { id: `5b1c0000-0000-4000-8000-0000000001${n}`, target: { ids: messages }, ...more });
    const steps = (...list: object[]) => ({ macro: { name: "x", steps: list, settings: {} } });
    const told = await Promise.all([
      run(10, steps({ do: "read" }, { do: "trash" })),
      run(11, { macro: Number(names.macros) }),
      run(12, { ...steps({ do: "move", to: SECRET }), target: { ids: [1, 2] } }),
      run(13, {
        ...steps({ do: "read" }),
        target: { narrow: SECRET, order: "newest", except: [], through: 9_999_999 },
      }),
      run(14, { ...steps({ do: "call", macro: SECRET }), target: { ids: [1] } }),
    ]);
    expect(told.filter(({ text }) => withoutNames(text).includes(`${SECRET}@`))).toEqual([]);
    const outcome = ({ status, text }: Answer) =>
      status < 300 ? (JSON.parse(text) as { changed: number }).changed : status;
    expect(told.map(outcome)).toEqual([0, 404, 422, 0, 422]);
    expect(await theirs()).toEqual(before);
  });

  test("in the stream of what is written", async () => {
    const stream = await fetch(`${asking().base}/events?after=0`, {
      headers: { ...asking().headers, accept: "text/event-stream" },
    });
    const reader = stream.body!.pipeThrough(new TextDecoderStream()).getReader();
    const { sql } = database();
    // The other's write is told of, and then one of whoever asks.
    const [other] = await sql<{ id: number }[]>`select id from person where id >= ${THEIRS}`;
    const them = { db: database(), person: personId(other!.id), zone: "Europe/Zurich" };
    await createTask(them, { title: `${SECRET} elsewhere`, message: null, due: null } as never);
    await make("/tasks", { title: "of one's own" });
    let heard = "";
    while (!heard.includes("of one's own")) {
      const { value, done } = await reader.read();
      if (done) break;
      heard += value;
    }
    await reader.cancel();
    expect(heard).toContain("of one's own");
    expect(withoutNames(heard)).not.toContain(SECRET);
    const seqs = [...heard.matchAll(/^id: (\d+)$/gm)].map(([, seq]) => Number(seq));
    const own = await sql<{ seq: number }[]>`select seq from ledger where person < ${THEIRS} order by seq`;
    expect(seqs).toEqual(own.map(({ seq }) => Number(seq)));
  });
});
