import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gunzipSync } from "node:zlib";
import { expect } from "vitest";
import { begin } from "@/server/act";
import { migrateDatabase, type Database } from "@/server/db";
import { emptyDatabase, fillWithMessages, freshDatabase, MIGRATIONS, type Fresh } from "./database";
import { endWeb, startWeb, type WebApp } from "./web";

/** Two people with a mailbox each in one database, and the app, which one of them asks. */

const ROOT = new URL("../..", import.meta.url).pathname;
/** A word of the other's that is in all they have. */
export const SECRET = "zirconia";
/** From here on numbers are the other's: whoever asks has none as high. */
export const THEIRS = 1_000_000;
/** Higher than any of theirs: what whoever asks makes. */
const LATER = 2_000_000;

let fresh: Fresh;
let folder: string;
let app: WebApp;
export const database = (): Database => fresh.db;
export const url = (): string => fresh.url;
export const asking = (): WebApp => app;

const numbered = async ({ sql }: Database, from: number): Promise<void> => {
  const sequences = await sql<
    { name: string }[]
  >`select quote_ident(sequencename) as name from pg_sequences where schemaname = 'public'`;
  for (const { name } of sequences) await sql.unsafe(`alter sequence ${name} restart with ${from}`);
};

/** Tables that say whose a row is. */
const tablesOf = async ({ sql }: Database): Promise<string[]> =>
  (
    await sql<{ name: string }[]>`
      select table_name as name from information_schema.columns
      where table_schema = 'public' and column_name = 'person' order by 1`
  ).map(({ name }) => name);

/** All that is the other's, as text. */
export async function theirs(): Promise<Record<string, string>> {
  const { sql } = fresh.db;
  const all: Record<string, string> = {};
  for (const table of await tablesOf(fresh.db)) {
    const [row] = await sql.unsafe<{ n: number; text: string }[]>(
      `select count(*)::int as n, md5(coalesce(string_agg(t::text, '|' order by t::text), '')) as text from ${table} t where person >= ${THEIRS}`,
    );
    all[table] = `${row!.n} ${row!.text}`;
  }
  const [person] = await sql<{ text: string }[]>`select md5(p::text) as text from person p where id >= ${THEIRS}`;
  return { ...all, person: person!.text };
}

export interface Answer {
  readonly status: number;
  readonly text: string;
}
/** @param headers of whoever is signed in, unless they say otherwise */
export async function ask(
  method: string,
  path: string,
  body?: unknown,
  headers: { readonly cookie?: string } = app.headers,
): Promise<Answer> {
  const isText = typeof body === "string";
  const response = await fetch(app.base + path, {
    method: method.toUpperCase(),
    headers,
    ...(body === undefined
      ? {}
      : {
          body: isText ? body : JSON.stringify(body),
          headers: { ...headers, "content-type": isText ? "application/octet-stream" : "application/json" },
        }),
  });
  if (response.headers.get("content-type")?.startsWith("text/event-stream")) {
    await response.body?.cancel();
    return { status: response.status, text: "" };
  }
  const bytes = Buffer.from(await response.arrayBuffer());
  const isZipped = bytes[0] === 0x1f && bytes[1] === 0x8b;
  return { status: response.status, text: (isZipped ? gunzipSync(bytes) : bytes).toString("latin1") };
}
export async function make<T = { readonly id: number }>(path: string, body: unknown): Promise<T> {
  const { status, text } = await ask("post", path, body);
  expect([path, status < 300, text]).toEqual([path, true, text]);
  return (text === "" ? null : JSON.parse(text)) as T;
}

const letter = (n: number) =>
  [
    `From other@post.example Mon Nov  2 09:00:0${n} 2026`,
    `From: ${SECRET} <${SECRET}${n}@post.example>`,
    `To: other@post.example`,
    `Subject: ${SECRET} ${n}`,
    `Message-ID: <${SECRET}${n}@post.example>`,
    `List-Id: <${SECRET}.list.example>`,
    `List-Unsubscribe: <mailto:leave-${SECRET}@post.example>`,
    `Date: Mon, 02 Nov 2026 09:00:0${n} +0000`,
    `MIME-Version: 1.0`,
    `Content-Type: multipart/mixed; boundary=b`,
    ``,
    `--b`,
    `Content-Type: text/plain`,
    ``,
    `${SECRET} text`,
    `--b`,
    `Content-Type: text/plain; name=${SECRET}.txt`,
    `Content-Disposition: attachment; filename=${SECRET}.txt`,
    ``,
    `${SECRET} file`,
    `--b--`,
    ``,
    ``,
  ].join("\n");

/** Of each kind of path what the other's is called there. */
export let names: Record<string, string>;

/** Fills the other's mailbox through the same API, while there is nobody else. */
async function fillTheirs(): Promise<void> {
  const mbox = join(folder, "theirs.mbox");
  writeFileSync(mbox, [1, 2, 3, 4, 5].map(letter).join(""));
  execFileSync(process.execPath, ["dist/import.mjs", mbox, "--folder", SECRET, "--quiet"], {
    cwd: ROOT,
    env: { ...process.env, DATABASE_URL: fresh.url },
    stdio: "ignore",
  });
  const { sql } = fresh.db;
  const [first] = await sql<{ id: number }[]>`select min(id) as id from message`;
  const message = Number(first!.id);
  const run = "5b1c0000-0000-4000-8000-00000000000a";
  const macro = await make("/macros", {
    name: SECRET,
    colour: "spruce",
    steps: [
      { do: "flag", note: SECRET },
      { do: "make task", title: SECRET, due: "+2d" },
    ],
    settings: {},
  });
  await make("/runs", { id: run, macro: macro.id, target: { ids: [message, message + 1] } });
  const draft = await make("/drafts", { subject: SECRET, to: [{ name: SECRET, address: "x@post.example" }] });
  await make(`/drafts/${draft.id}/files?name=${SECRET}.txt`, SECRET);
  const [file] = await sql<{ id: number }[]>`select max(id) as id from draft_file`;
  const task = await make("/tasks", { title: SECRET, due: "2026-12-01T09:00:00Z", estimate: 30 });
  const event = await make("/events", { title: SECRET, start: "2026-12-01T10:00", length: 3600, zone: "UTC" });
  const { address } = await make<{ address: string }>(`/calendars/${await newest("calendar")}/address`, undefined);
  await make("/contacts", { address: `${SECRET}@post.example`, name: SECRET });
  await make("/blocked", { address: `${SECRET}9@post.example` });
  await make("/narrowings", { text: `subject~${SECRET}` });
  const pass = await make("/passes", {
    id: "5b1c0000-0000-4000-8000-00000000000b",
    name: SECRET,
    narrow: `folder=${SECRET}`,
    order: "newest",
    queue: [message, message + 1],
  });
  const hours = await make("/hours", { narrow: `subject~${SECRET}`, week: [] });
  await sql`insert into account (person, kind, name, address, is_paused)
    select id, 'internet', ${SECRET}, ${SECRET} || '@post.example', true from person`;
  await sql`insert into passkey (person, id, public_key, uses, transports, name)
    select id, ${SECRET}, '', 0, '', ${SECRET} from person`;
  await make("/tokens", { name: SECRET, scopes: ["read"], days: null });
  // A letter that is on its way, and a file of it.
  const sent = await make("/drafts", { subject: SECRET, to: [{ name: SECRET, address: "x@post.example" }] });
  await make(`/drafts/${sent.id}/send`, { id: "5b1c0000-0000-4000-8000-00000000000c" });
  names = {
    messages: String(message),
    ledger: run,
    jobs: String(await newest("job")),
    folders: String(await newest("folder")),
    labels: String((await make("/labels", { name: SECRET, colour: "slate" })).id),
    passes: String(pass.id),
    rules: String((await make("/rules", { narrow: `subject~${SECRET}`, macro: macro.id })).id),
    hours: String(hours.id),
    accounts: String(await newest("account")),
    outgoing: String((JSON.parse((await ask("get", "/outgoing")).text) as { message: number }[])[0]!.message),
    calendars: String(await newest("calendar")),
    events: String(event.id),
    tasks: String(task.id),
    batches: String((await make("/batches", { name: SECRET, narrow: `subject~${SECRET}` })).id),
    macros: String(macro.id),
    drafts: String(draft.id),
    file: String(file!.id),
    templates: String((await make("/templates", { name: SECRET, body: { type: "doc", content: [] } })).id),
    identities: String(await newest("identity")),
    groups: String((await make("/groups", { name: SECRET, members: [`${SECRET}@post.example`] })).id),
    lists: `${SECRET}.list.example`,
    contacts: `${SECRET}@post.example`,
    blocked: `${SECRET}9@post.example`,
    "calendar-addresses": address.split("/").at(-1)!,
    passkeys: SECRET,
    tokens: (JSON.parse((await ask("get", "/tokens")).text) as { id: string }[])[0]!.id,
    sessions: (JSON.parse((await ask("get", "/sessions")).text) as { sessions: { id: string }[] }).sessions[0]!.id,
  };
}
const newest = async (table: string): Promise<number> =>
  Number((await fresh.db.sql.unsafe(`select max(id) as id from ${table}`))[0]!.id);

/** Somebody with a mailbox of their own, who was there before: the app takes whoever asks for them. */
async function addAsking(): Promise<void> {
  const other = await freshDatabase();
  await fillWithMessages(other, 20);
  const { sql } = fresh.db;
  await sql.begin(async (tx) => {
    // The order of tables says nothing of who refers to whom.
    await tx`set local session_replication_role = replica`;
    for (const table of ["person", ...(await tablesOf(other.db))]) {
      const rows = await other.db.sql.unsafe<{ row: string }[]>(`select row_to_json(t)::text as row from ${table} t`);
      await tx.unsafe(
        `insert into ${table} overriding system value select * from jsonb_populate_recordset(null::${table}, $1::text::jsonb)`,
        [`[${rows.map(({ row }) => row).join()}]`],
      );
    }
  });
  await other.drop();
}

export async function openTwo(): Promise<void> {
  folder = mkdtempSync(join(tmpdir(), "tachyne-apart-"));
  fresh = await emptyDatabase("");
  await migrateDatabase(fresh.url, MIGRATIONS);
  await numbered(fresh.db, THEIRS);
  await begin(fresh.db, {
    name: SECRET,
    address: "other@post.example",
    aliases: [],
    zone: "Europe/Zurich",
    folders: [SECRET],
    labels: [[`${SECRET} label`, "slate"]],
  });
  app = await startWeb(fresh.url);
  await fillTheirs();
  await endWeb(app);
  await addAsking();
  await numbered(fresh.db, LATER);
  app = await startWeb(fresh.url);
}

export async function closeTwo(): Promise<void> {
  await endWeb(app);
  rmSync(folder, { recursive: true });
  await fresh.drop();
}
