import type { ChildProcess } from "node:child_process";
import { randomBytes, randomUUID } from "node:crypto";
import { setTimeout as pause } from "node:timers/promises";
import { afterAll, beforeAll, expect, test, vi } from "vitest";
import { changeSettings, createDraft, createMacro, createRule, sendDraft } from "@/server/act";
import { docOfText } from "@/core/letter";
import { asHeaders, makeLink, signIn } from "../signed-in";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";
import { kill, startJobs } from "./jobs";
import { proxyTo, type Proxy } from "./proxy";
import { serviceOf } from "./service";
import { endWeb, startWeb, type WebApp } from "./web";

/**
 * Two web and two job processes on one database behind a plain proxy, killed one after the other while windows decide,
 * mail comes in, letters go out and deferred mail comes back: nothing is lost, doubled or stale.
 */

const WINDOWS = 4;
const OF_EACH = 25;
const DEFERRED = 60;
const LETTERS = 12;
const KILLS = 8;
/** Letters that come before each kill. */
const ARRIVING = 6;

const FOLDERS = { archive: "Archive", bookings: "Bookings", weather: "Weather" } as const;
const DEEDS: readonly { steps: object[]; does: (m: Model) => Model }[] = [
  { steps: [{ do: "archive" }], does: (m) => ({ ...m, folder: FOLDERS.archive }) },
  { steps: [{ do: "move", to: "Bookings" }], does: (m) => ({ ...m, folder: FOLDERS.bookings }) },
  { steps: [{ do: "move", to: "Weather" }], does: (m) => ({ ...m, folder: FOLDERS.weather }) },
  // Done twice, this one would be seen.
  { steps: [{ do: "toggle read" }], does: (m) => ({ ...m, read: !m.read }) },
];

/** What a message is to be, as the test reckons it by itself. */
interface Model {
  readonly folder: string;
  readonly read: boolean;
}

const key = randomBytes(32).toString("base64");
let fresh: Fresh;
let ids: number[];
let webs: WebApp[];
let jobs: ChildProcess[];
let proxy: Proxy;
let cookie: { readonly cookie: string };
let isOver = false;
/** How often a window asked again. */
let repeated = 0;
const unfollowed = new AbortController();

const startJob = () => startJobs({ DATABASE_URL: fresh.url, TACHYNE_KEY: key });

beforeAll(async () => {
  fresh = await freshDatabase();
  await serviceOf(fresh);
  await fresh.db.sql`update simulator set answers = 0, bounces = 0`;
  await changeSettings(fresh.context, { holdSeconds: 0 });
  const macro = { name: "To label", colour: "spruce", steps: [{ do: "label", add: "Invoice" }], settings: {} };
  const { id } = await createMacro(fresh.context, macro as never);
  await createRule(fresh.context, { narrow: "subject~storm", macro: id, on: true, stop: false });
  ids = await fillWithMessages(fresh, WINDOWS * OF_EACH + DEFERRED);
  webs = await Promise.all([1, 2].map(() => startWeb(fresh.url, { TACHYNE_KEY: key })));
  jobs = [startJob(), startJob()];
  proxy = await proxyTo(webs.map(({ port }) => port));
  // Cookies are of a port: the session is signed in to through the proxy.
  cookie = asHeaders(await signIn(`http://127.0.0.1:${proxy.port}`, makeLink({ DATABASE_URL: fresh.url })!));
});
afterAll(async () => {
  isOver = true;
  unfollowed.abort();
  proxy.close();
  await Promise.all([...webs.map(endWeb), ...jobs.map(kill)]);
  await fresh.drop();
});

const base = () => `http://127.0.0.1:${proxy.port}/api/v1`;

/** As a window does: what got no answer, or one of a server's trouble, is asked again until it is answered. */
async function insist(path: string, body: object): Promise<number> {
  for (;;) {
    const answer = await fetch(base() + path, {
      method: "POST",
      headers: { ...cookie, "content-type": "application/json" },
      body: JSON.stringify(body),
    })
      .then(async (response) => ({ status: response.status, text: await response.text() }))
      .catch(() => null);
    if (answer && answer.status < 500) return answer.status;
    repeated++;
    await pause(50);
  }
}

/** A window that decides on its own messages, takes back and does again, for as long as others are killed. */
async function decides(own: readonly number[], model: Map<number, Model>, random: () => number) {
  const done: { id: string; before: Map<number, Model>; after: Map<number, Model> }[] = [];
  let undone: (typeof done)[number] | null = null;
  let asked = 0;
  const put = (states: Map<number, Model>) => states.forEach((state, id) => model.set(id, state));
  while (!isOver) {
    asked++;
    const dice = random();
    const last = done.at(-1);
    if (undone && dice < 0.5) {
      expect(await insist(`/ledger/${undone.id}/redo`, { id: randomUUID() })).toBe(200);
      put(undone.after);
      done.push(undone);
      undone = null;
    } else if (last && dice < 0.7 && dice > 0.5) {
      expect(await insist(`/ledger/${last.id}/undo`, { id: randomUUID() })).toBe(200);
      put(last.before);
      undone = done.pop()!;
    } else {
      const deed = DEEDS[Math.floor(random() * DEEDS.length)]!;
      const hit = own.filter(() => random() < 0.2);
      if (hit.length === 0) continue;
      const id = randomUUID();
      const macro = { name: "x", steps: deed.steps };
      expect(await insist("/runs", { id, macro, target: { ids: hit } })).toBe(200);
      const before = new Map(hit.map((one) => [one, model.get(one)!]));
      const after = new Map(hit.map((one) => [one, deed.does(model.get(one)!)]));
      put(after);
      // One that changed nothing leaves nothing to take back.
      if (hit.some((one) => before.get(one)!.folder !== after.get(one)!.folder || deed === DEEDS[3]))
        done.push({ id, before, after });
      undone = null;
    }
  }
  return asked;
}

/** A window that follows: it connects again wherever its stream ends, from what it has. */
function follows(until: AbortSignal): { readonly seen: number[] } {
  const seen: number[] = [];
  void (async () => {
    while (!until.aborted) await followOnce(seen, until);
  })();
  return { seen };
}

async function followOnce(seen: number[], until: AbortSignal): Promise<void> {
  try {
    const { body } = await fetch(`${base()}/events?after=${seen.at(-1) ?? 0}`, { headers: cookie, signal: until });
    let text = "";
    for await (const piece of body!.pipeThrough(new TextDecoderStream())) {
      const lines = (text += piece).split("\n");
      text = lines.pop()!;
      for (const line of lines) if (line.startsWith("id: ")) seen.push(Number(line.slice(4)));
    }
  } catch {
    // Its server went.
  }
  await pause(20);
}

async function brings(n: number): Promise<void> {
  const subject = n % 2 ? "Storm coming" : "Beds";
  const raw = `From: X <x${n}@post.example>\r\nTo: bookings@larchhuts.example\r\nSubject: ${subject}\r\nDate: Thu, 26 Nov 2026 08:00:00 +0000\r\nMessage-ID: <many${n}@post.example>\r\n\r\nHello.\r\n`;
  await fresh.db.sql`insert into simulated_mail (person, account, raw)
    select ${fresh.context.person}, id, ${Buffer.from(raw)} from account where person = ${fresh.context.person}`;
}

async function sends(n: number): Promise<void> {
  const address = `silent.many${n}@post.example`;
  const letter = { kind: "new", answers: null, to: [{ name: "", address }], subject: address, body: docOfText("x") };
  const draft = await createDraft(fresh.context, letter as never);
  await sendDraft(fresh.context, draft.id, { id: randomUUID(), version: null, afterwards: null });
}

const number = async (query: Promise<{ n: number }[]>) => (await query)[0]!.n;
/** Numbers that look random, the same each time. */
const randomFrom = (seed: number) => () => {
  seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0;
  return seed / 2 ** 32;
};

test("nothing is lost, doubled or stale while two of each kind are killed in turn", { timeout: 300_000 }, async () => {
  const { sql } = fresh.db;
  const own = ids.slice(0, WINDOWS * OF_EACH);
  const away = ids.slice(WINDOWS * OF_EACH);
  const rows = await sql<{ id: number; read: boolean }[]>`
    select message as id, (bits & 1) <> 0 as read from message_state where message = any(${own})`;
  const model = new Map<number, Model>(rows.map(({ id, read }) => [id, { folder: "Inbox", read }]));

  const streams = [1, 2].map(() => follows(unfollowed.signal));
  const windows = Array.from({ length: WINDOWS }, (_, i) =>
    decides(own.slice(i * OF_EACH, (i + 1) * OF_EACH), model, randomFrom(i + 1)),
  );
  let arrived = 0;
  for (let turn = 0; turn < KILLS; turn++) {
    // Put away until a time that has come: whichever job process looks first brings it back.
    const some = away.slice((turn * DEFERRED) / KILLS, ((turn + 1) * DEFERRED) / KILLS);
    const macro = { name: "away", steps: [{ do: "defer", until: "2026-10-25 02:30" }] };
    expect(await insist("/runs", { id: randomUUID(), macro, target: { ids: some } })).toBe(200);
    for (let i = 0; i < ARRIVING; i++) await brings(arrived++);
    for (let n = Math.ceil((turn * LETTERS) / KILLS); n < ((turn + 1) * LETTERS) / KILLS; n++) await sends(n);
    await pause(150);
    const which = turn % 2;
    if (turn % 4 < 2) {
      await endWeb(webs[which]!);
      webs[which] = await startWeb(fresh.url, { TACHYNE_KEY: key }, undefined, webs[which]!.port);
    } else {
      await kill(jobs[which]!);
      jobs[which] = startJob();
    }
  }
  isOver = true;
  const asked = await Promise.all(windows);
  expect(Math.min(...asked)).toBeGreaterThan(KILLS);
  expect(repeated).toBeGreaterThan(0);

  // Each message is as its window reckons.
  const states = await sql<{ id: number; folder: string; read: boolean }[]>`
    select s.message as id, f.path as folder, (s.bits & 1) <> 0 as read from message_state s
    join folder f on f.person = s.person and f.id = s.folder where s.message = any(${own})`;
  expect(new Map(states.map(({ id, folder, read }) => [id, { folder, read }]))).toEqual(model);

  const patience = { timeout: 120_000, interval: 200 };
  // What was put away is back, each once, by the clock.
  await vi.waitFor(async () => {
    expect(await number(sql`select count(*)::int as n from message_state where back_since is not null`)).toBe(DEFERRED);
  }, patience);
  expect(
    await number(sql`select sum(changed)::int as n from ledger where actor = 'clock' and cause = 'deferred'`),
  ).toBe(DEFERRED);
  // What came is in, each once, with what the rule does to half of it.
  const came = () =>
    sql<{ n: number; labelled: number }[]>`
      select count(*)::int as n, count(*) filter (where cardinality(s.labels) > 0 and m.subject like 'Storm%')::int as labelled
      from message m join message_state s on s.person = m.person and s.message = m.id
      where m.from_address like 'x%' and m.from_name = 'X'`;
  const n = KILLS * ARRIVING;
  await vi.waitFor(async () => expect((await came())[0]).toEqual({ n, labelled: n / 2 }), patience);
  // Letters reached each address at the most once; where nobody knows whether they did, that is said.
  const ways = () => sql<{ way: string; received: number }[]>`
    select coalesce(h.state, f.role) as way, (select count(*)::int from simulated_sent t where t.recipient = m.subject) as received
    from message m join message_state s on s.person = m.person and s.message = m.id
      join folder f on f.person = s.person and f.id = s.folder
      left join held h on h.person = m.person and h.message = m.id
    where m.subject like 'silent.many%'`;
  await vi.waitFor(async () => {
    const letters = await ways();
    expect(letters).toHaveLength(LETTERS);
    for (const { way } of letters) expect(["sent", "unsure"]).toContain(way);
  }, patience);
  for (const { way, received } of await ways())
    if (way === "unsure") expect(received).toBeLessThanOrEqual(1);
    else expect(received).toBe(1);
  // Who followed through both was told of every write once, in order, and both processes show the same.
  const written = (await sql<{ seq: number }[]>`select seq from ledger order by seq`).map(({ seq }) => seq);
  const heard = async (stream: (typeof streams)[number]) =>
    vi.waitFor(() => expect(stream.seen).toEqual(written), patience);
  await Promise.all(streams.map(heard));
  const indexes = await Promise.all(
    webs.map(async ({ base: direct, headers: asked }) =>
      Buffer.from(await (await fetch(`${direct}/index`, { headers: asked })).arrayBuffer()),
    ),
  );
  expect(indexes[0]!.equals(indexes[1]!)).toBe(true);
  expect(indexes[0]!.length).toBeGreaterThan(ids.length);
});
