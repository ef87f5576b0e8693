import { randomUUID } from "node:crypto";
import postgres from "postgres";
import { afterAll, beforeAll, expect, test } from "vitest";
import { addPerson } from "@/server/act/begin";
import { asHeaders, makeLink, signIn } from "../signed-in";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";
import { endWeb, startWeb, type WebApp } from "./web";

/** What one person asks for keeps nobody else's requests waiting, however much it is and however long it takes. */

const OTHER = "other@larchhuts.example";
const [AT_ONCE, IN_LINE, TOO_MANY] = [4, 200, 20];
let fresh: Fresh;
let app: WebApp;
let ids: number[];
let other: { readonly cookie: string };

beforeAll(async () => {
  fresh = await freshDatabase();
  ids = await fillWithMessages(fresh, 400);
  const home = { name: "x", address: OTHER, aliases: [], zone: "UTC", folders: [], labels: [] };
  await addPerson(fresh.db, home, { before: async () => {}, after: async () => {} });
  app = await startWeb(fresh.url);
  const link = makeLink({ DATABASE_URL: fresh.url }, "--address", OTHER)!;
  other = asHeaders(await signIn(`http://127.0.0.1:${app.port}`, link));
});
afterAll(async () => {
  await endWeb(app);
  await fresh.drop();
});

const archive = (id: number) =>
  fetch(`${app.base}/runs`, {
    method: "POST",
    headers: { ...app.headers, "content-type": "application/json" },
    body: JSON.stringify({ id: randomUUID(), macro: { name: "x", steps: [{ do: "archive" }] }, target: { ids: [id] } }),
  });
const waiting = async () =>
  (
    await fresh.db.sql<{ n: number }[]>`
      select count(*)::int as n from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`
  )[0]!.n;

test("another is answered while four of one's own stand, and the rest waits; what is too much is refused", async () => {
  const holder = postgres(fresh.url, { max: 1, onnotice: () => {} });
  const over: Response[] = [];
  let asked: Promise<unknown>[] = [];
  await holder.begin(async (tx) => {
    await tx`select 1 from person where id = ${fresh.context.person} for update`;
    asked = ids.slice(0, AT_ONCE + IN_LINE + TOO_MANY).map(async (id) => over.push(await archive(id)));
    await expect.poll(() => over.length, { timeout: 60_000 }).toBe(TOO_MANY);
    for (const refused of over) {
      expect(refused.status).toBe(429);
      expect(refused.headers.get("retry-after")).toBe("1");
      expect(await refused.json()).toMatchObject({ type: "urn:tachyne:too-much" });
    }
    expect(await waiting()).toBe(AT_ONCE);
    const theirs = await fetch(`${app.base}/messages?limit=1`, { headers: other });
    expect(theirs.status).toBe(200);
  });
  await Promise.all(asked);
  expect(new Set(over.slice(TOO_MANY).map(({ status }) => status))).toEqual(new Set([200]));
  await holder.end();
  const [row] = await fresh.db.sql<{ n: number }[]>`select count(*)::int as n from ledger where kind = 'run'`;
  expect(row!.n).toBe(AT_ONCE + IN_LINE);
});
