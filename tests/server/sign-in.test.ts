import { createHash } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  beginCodes,
  beginFirst,
  beginInvited,
  changePassword,
  confirmCodes,
  endCodes,
  endOtherSessions,
  inviteFirst,
  invitePerson,
  readHome,
  readSignedIn,
  readSignIn,
  renewPaper,
  signIn,
  signInByLink,
  whoIsAsking,
  type Asking,
  type From,
} from "@/server/act";
import type { PersonId } from "@/core/id";
import { migrateDatabase, openWalled, type Database } from "@/server/db";
import { base32, codeAt, endOld, hashPassword, isPassword, makeOnce, stepAt } from "@/server/sign-in";
import { emptyDatabase, MIGRATIONS, type Fresh } from "./database";

/** Coming in: by whom, how often, and what of it is kept. */

const PASSWORD = "seven larches by the lake";
const OTHER = "the bridge is out again";
let fresh: Fresh;
/** As a request has it that nobody makes yet. */
let gate: Database;
let from: From;

const begun = (address: string, password = PASSWORD) => ({ name: "Ilse", address, password, zone: "Europe/Zurich" });
/** What the database has of the secret in a link. */
const digest = (link: string): Buffer => createHash("sha256").update(link.split(".")[1]!).digest();
const asking = async (token: string): Promise<Asking> => (await whoIsAsking(gate, token))!;
/** How many of some attempts ended in which status; 200 for those that came in. */
const outcomes = async (attempts: readonly Promise<unknown>[]): Promise<Record<number, number>> => {
  const counts: Record<number, number> = {};
  for (const one of await Promise.allSettled(attempts)) {
    const status = one.status === "fulfilled" ? 200 : (one.reason as { status: number }).status;
    counts[status] = (counts[status] ?? 0) + 1;
  }
  return counts;
};
/** As if so much time had gone by for all attempts. */
const later = (seconds: number) =>
  fresh.db
    .sql`update sign_in_attempt set at = at - make_interval(secs => ${seconds}), until = until - make_interval(secs => ${seconds})`;

beforeAll(async () => {
  process.env.TACHYNE_KEY = Buffer.alloc(32, 7).toString("base64");
  fresh = await emptyDatabase("");
  await migrateDatabase(fresh.url, MIGRATIONS);
  gate = openWalled(fresh.url, 4);
  from = {
    db: gate,
    agent: "a test",
    address: null,
    isPublic: false,
    site: { host: "localhost", origin: "http://localhost:1" },
  };
});
afterAll(async () => {
  await gate.close();
  await fresh.drop();
});

describe("the first person", () => {
  test("of a server that others reach is who has its link, and nobody for having come first", async () => {
    const reached = { ...from, isPublic: true };
    const passerBy = begun("passer-by@ridge.example");
    expect(await readSignIn(reached, null)).toEqual({ person: null, isEmpty: true, byLink: true });
    await expect(beginFirst(reached, passerBy)).rejects.toMatchObject({ status: 403 });
    const [link, over] = [(await inviteFirst(fresh.db, 5))!, (await inviteFirst(fresh.db, 5))!];
    await fresh.db.sql`update once_link set ends_at = now() - interval '1 second' where hash = ${digest(over)}`;
    const forged = link.replace(/.$/, (last) => (last === "A" ? "B" : "A"));
    for (const none of [over, forged, "0.", "nothing"])
      await expect(beginInvited(reached, { ...passerBy, link: none })).rejects.toMatchObject({ status: 401 });
    // It lets nobody in as somebody who is there.
    await expect(signInByLink(reached, link)).rejects.toMatchObject({ status: 401 });
    expect(await whoIsAsking(gate, link)).toBeNull();
    const many = [1, 2, 3].map((n) => beginInvited(reached, { ...begun(`ines${n}@larch.example`), link }));
    expect(await outcomes(many)).toEqual({ 200: 1, 401: 2 });
    expect(await readSignIn(reached, null)).toEqual({ person: null, isEmpty: false, byLink: false });
    expect(await inviteFirst(fresh.db, 5)).toBeNull();
    // Who began by it may invite.
    const [ines] = await fresh.db.sql<{ address: string }[]>`select address from person`;
    const { context } = await asking(await signIn(reached, { address: ines!.address, password: PASSWORD }));
    expect((await invitePerson(context)).link).toMatch(/^\d+\./);
    await fresh.db.sql`delete from person`;
    for (const table of ["sign_in", "session", "once_link"]) await fresh.db.sql`delete from ${fresh.db.sql(table)}`;
  });

  test("is one, however many begin at once, and comes in with what they chose", async () => {
    expect(await readSignIn(from, null)).toEqual({ person: null, isEmpty: true, byLink: false });
    const many = [1, 2, 3, 4, 5].map((n) => beginFirst(from, begun(`ilse${n}@larch.example`)));
    expect(await outcomes(many)).toEqual({ 200: 1, 409: 4 });
    const people = await fresh.db.sql<{ address: string; zone: string }[]>`select address, zone from person`;
    expect(people).toHaveLength(1);
    expect(people[0]!.zone).toBe("Europe/Zurich");
    const signIns = await fresh.db.sql`select 1 from sign_in`;
    expect(signIns).toHaveLength(1);
    // Capital letters of an address say nothing; those of a password do.
    const address = people[0]!.address.toUpperCase();
    const { context } = await asking(await signIn(from, { address, password: PASSWORD }));
    expect((await readHome(context)).person.address).toBe(people[0]!.address);
    await expect(signIn(from, { address, password: PASSWORD.toUpperCase() })).rejects.toMatchObject({ status: 401 });
  });
});

const first = async (): Promise<string> =>
  (await fresh.db.sql<{ address: string }[]>`select address from person order by id limit 1`)[0]!.address;

describe("a password", () => {
  test("changed, ends every session but this one and every link; the old one is none any more", async () => {
    const address = await first();
    const here = await signIn(from, { address, password: PASSWORD });
    const there = await signIn(from, { address, password: PASSWORD });
    const { context, session } = await asking(here);
    const link = await makeOnce(fresh.db, context.person, "in", 5);
    const change = (old: string) => changePassword(context, session, from, { old, password: OTHER });
    await expect(change("not this one at all")).rejects.toMatchObject({ status: 422 });
    expect(await whoIsAsking(gate, there)).not.toBeNull();
    await change(PASSWORD);
    expect(await whoIsAsking(gate, there)).toBeNull();
    expect(await whoIsAsking(gate, here)).not.toBeNull();
    await expect(signInByLink(from, link)).rejects.toMatchObject({ status: 401 });
    await expect(signIn(from, { address, password: PASSWORD })).rejects.toMatchObject({ status: 401 });
    await signIn(from, { address, password: OTHER });
    await changePassword(context, session, from, { old: OTHER, password: PASSWORD });
  });

  test.each(["a first one", "a further one"])("is set once by windows that set %s at the same time", async (which) => {
    const address = await first();
    const [{ person }] = await fresh.db.sql<
      [{ person: PersonId }]
    >`select person from sign_in where address = ${address}`;
    const link = await makeOnce(fresh.db, person, "in", 5);
    const { context, session } = await asking(await signInByLink(from, link));
    if (which === "a first one") await fresh.db.sql`delete from sign_in where person = ${person}`;
    const old = which === "a first one" ? "" : PASSWORD;
    const all = Array.from({ length: 4 }, (_, n) => `${OTHER} ${n}`);
    const set = await outcomes(all.map((password) => changePassword(context, session, from, { old, password })));
    const [kept] = await fresh.db.sql<{ password: string }[]>`select password from sign_in where person = ${person}`;
    await fresh.db.sql`update sign_in set password = ${await hashPassword(PASSWORD)} where person = ${person}`;
    expect(set).toEqual({ 200: 1, 422: 3 });
    const known = await Promise.all(all.map((password) => isPassword(kept!.password, password)));
    expect(known.filter(Boolean)).toHaveLength(1);
  });
});

describe("guessing", () => {
  const wrong = (address: string) => signIn(from, { address, password: "not the one they have" });

  test.each(["", "nobody@larch.example"])("has five attempts, then waits twice as long each time: %s", async (name) => {
    const address = name || (await first());
    await fresh.db.sql`delete from sign_in_attempt`;
    // At once, or one after the other: an attempt counts before it is looked at.
    expect(await outcomes(Array.from({ length: 30 }, () => wrong(address)))).toEqual({ 401: 5, 429: 25 });
    const waits: number[] = [];
    const untilIn = (seconds: number) =>
      fresh.db.sql`update sign_in_attempt set until = clock_timestamp() + make_interval(secs => ${seconds})`;
    for (let n = 0; n < 12; n++) {
      const [row] = await fresh.db.sql<{ wait: number }[]>`
        select round(extract(epoch from until - at))::int as wait from sign_in_attempt`;
      waits.push(row!.wait);
      await untilIn(60);
      const refused = (await wrong(address).catch((error: unknown) => error)) as { more: { after: number } };
      expect(refused).toMatchObject({ status: 429 });
      expect(refused.more.after).toBeGreaterThan(0);
      expect(refused.more.after).toBeLessThanOrEqual(60);
      await untilIn(-1);
      expect(await outcomes([wrong(address)])).toEqual({ 401: 1 });
    }
    expect(waits).toEqual([5, 10, 20, 40, 80, 160, 320, 640, 900, 900, 900, 900]);
  });

  test("while one waits the right password is none either; an hour later all is forgotten, and being right forgets it too", async () => {
    const address = await first();
    await fresh.db.sql`delete from sign_in_attempt`;
    await outcomes(Array.from({ length: 5 }, () => wrong(address)));
    await expect(signIn(from, { address, password: PASSWORD })).rejects.toMatchObject({ status: 429 });
    await later(3601);
    expect(await outcomes(Array.from({ length: 4 }, () => wrong(address)))).toEqual({ 401: 4 });
    await signIn(from, { address, password: PASSWORD });
    expect(await outcomes(Array.from({ length: 5 }, () => wrong(address)))).toEqual({ 401: 5 });
    // Somebody else is not kept waiting.
    await expect(wrong("somebody@larch.example")).rejects.toMatchObject({ status: 401 });
    await later(3601);
  });

  test("many accounts from one address are counted by the address", async () => {
    await fresh.db.sql`delete from sign_in_attempt`;
    const there = { ...from, address: "192.0.2.7" };
    const many = (count: number, start: number) =>
      Array.from({ length: count }, (_, n) =>
        signIn(there, { address: `guess${start + n}@larch.example`, password: "not the one they have" }),
      );
    expect(await outcomes(many(70, 0))).toEqual({ 401: 60, 429: 10 });
    const elsewhere = { ...from, address: "192.0.2.8" };
    await signIn(elsewhere, { address: await first(), password: PASSWORD });
  });
});

describe("links", () => {
  test("let in once, however many come at once, and only as long as they last", async () => {
    const { context } = await asking(await signIn(from, { address: await first(), password: PASSWORD }));
    const link = await makeOnce(fresh.db, context.person, "in", 5);
    expect(await outcomes([1, 2, 3, 4, 5, 6].map(() => signInByLink(from, link)))).toEqual({ 200: 1, 401: 5 });
    const old = await makeOnce(fresh.db, context.person, "in", 5);
    await fresh.db.sql`update once_link set ends_at = now() - interval '1 second'`;
    await expect(signInByLink(from, old)).rejects.toMatchObject({ status: 401 });
    const invitation = await makeOnce(fresh.db, context.person, "invitation", 5);
    for (const none of ["", "1", "1.", `${context.person}.${"A".repeat(43)}`, `x${link}`, invitation])
      await expect(signInByLink(from, none)).rejects.toMatchObject({ status: 401 });
  });

  test("that invite begin one mailbox of its own; what is refused has not used them up", async () => {
    const { context } = await asking(await signIn(from, { address: await first(), password: PASSWORD }));
    const { link } = await invitePerson(context);
    const taken = begun((await first()).toUpperCase());
    await expect(beginInvited(from, { ...taken, link })).rejects.toMatchObject({ status: 409 });
    const guest = begun("guest@larch.example");
    expect(
      await outcomes([1, 2, 3].map((n) => beginInvited(from, { ...guest, address: `guest${n}@larch.example`, link }))),
    ).toEqual({ 200: 1, 401: 2 });
    const people = await fresh.db.sql<{ id: number }[]>`select id from person order by id`;
    expect(people).toHaveLength(2);
    const [row] = await fresh.db.sql<{ address: string }[]>`select address from person order by id desc limit 1`;
    const them = await asking(await signIn(from, { address: row!.address, password: PASSWORD }));
    expect(them.context.person).toBe(people[1]!.id);
    const home = await readHome(them.context);
    expect(home.messages).toBe(0);
    expect(home.macros.length).toBeGreaterThan(0);
    // Only whoever began here lets others in.
    await expect(invitePerson(them.context)).rejects.toMatchObject({ status: 403 });
  });
});

describe("sessions", () => {
  test("are listed, end when they are ended or not used, and go on while they are used", async () => {
    const address = await first();
    const [one, two, three] = [
      await signIn({ ...from, agent: "one" }, { address, password: PASSWORD }),
      await signIn({ ...from, agent: "two" }, { address, password: PASSWORD }),
      await signIn({ ...from, agent: "x".repeat(5000) }, { address, password: PASSWORD }),
    ];
    const { context, session } = await asking(two);
    await endOtherSessions(context, session);
    expect((await readSignedIn(context, session, false)).sessions).toMatchObject([
      { agent: "two", way: "password", isThis: true },
    ]);
    for (const ended of [one, three]) expect(await whoIsAsking(gate, ended)).toBeNull();
    const age = (days: number) =>
      fresh.db.sql`update session set created_at = created_at - make_interval(days => ${days}),
        seen_at = seen_at - make_interval(days => ${days}), ends_at = ends_at - make_interval(days => ${days})`;
    // Used every 29 days it lasts, but not for ever.
    let days = 0;
    while ((await age(29), await whoIsAsking(gate, two))) days += 29;
    expect(days).toBeGreaterThanOrEqual(145);
    expect(days).toBeLessThan(180 + 30);
    const unused = await signIn(from, { address, password: PASSWORD });
    await age(31);
    expect(await whoIsAsking(gate, unused)).toBeNull();
    await endOld(fresh.db);
    expect(await fresh.db.sql`select 1 from session where person = ${context.person}`).toHaveLength(0);
  });

  test("no secret of anybody's is in the database: who has a copy of it comes in nowhere", async () => {
    const address = await first();
    const token = await signIn(from, { address, password: PASSWORD });
    const { context } = await asking(token);
    const link = await makeOnce(fresh.db, context.person, "in", 5);
    const tables = await fresh.db.sql<{ name: string }[]>`
      select quote_ident(table_name) as name from information_schema.tables where table_schema = 'public'`;
    let all = "";
    for (const { name } of tables)
      all += (await fresh.db.sql.unsafe<{ row: string }[]>(`select t::text as row from ${name} t`))
        .map(({ row }) => row)
        .join("\n");
    expect(all).toContain(address);
    for (const secret of [token, link]) {
      const bytes = Buffer.from(secret.split(".")[1]!, "base64url");
      expect(bytes).toHaveLength(32);
      for (const form of [secret.split(".")[1]!, bytes.toString("hex"), bytes.toString("base64")])
        expect(all).not.toContain(form);
    }
    expect(all).not.toContain(PASSWORD);
  });
});

describe("codes", () => {
  test("are those of RFC 6238 and RFC 4226", () => {
    const secret = Buffer.from("12345678901234567890");
    // RFC 4226, appendix D; RFC 6238, appendix B, of which the last six digits are these.
    expect(Array.from({ length: 10 }, (_, step) => codeAt(secret, step))).toEqual([
      "755224",
      "287082",
      "359152",
      "969429",
      "338314",
      "254676",
      "287922",
      "162583",
      "399871",
      "520489",
    ]);
    for (const [seconds, code] of [
      [59, "287082"],
      [1_111_111_109, "081804"],
      [1_234_567_890, "005924"],
      [20_000_000_000, "353130"],
    ] as const)
      expect(codeAt(secret, stepAt(new Date(seconds * 1000)))).toBe(code);
    // RFC 4648, section 10.
    expect(["", "f", "fo", "foo", "foob", "fooba", "foobar"].map((text) => base32(Buffer.from(text)))).toEqual([
      "",
      "MY",
      "MZXQ",
      "MZXW6",
      "MZXW6YQ",
      "MZXW6YTB",
      "MZXW6YTBOI",
    ]);
  });

  /** What an app makes of a secret in base32, so many steps from now; read here with BigInt. */
  const shown = (secret: string, off = 0): string => {
    let value = 0n;
    for (const letter of secret) value = value * 32n + BigInt("ABCDEFGHIJKLMNOPQRSTUVWXYZ234567".indexOf(letter));
    return codeAt(Buffer.from(value.toString(16).padStart(40, "0"), "hex"), stepAt(new Date()) + off);
  };

  test("are asked for beside the password once a first one was right; each is good once, as those on paper are", async () => {
    await fresh.db.sql`delete from sign_in_attempt`;
    const address = await first();
    const { context, session } = await asking(await signIn(from, { address, password: PASSWORD }));
    const { secret, uri } = await beginCodes(context);
    expect(uri).toContain(`secret=${secret}`);
    expect(secret).toMatch(/^[A-Z2-7]{32}$/);
    // Not confirmed yet, it is not asked for.
    await signIn(from, { address, password: PASSWORD });
    await expect(confirmCodes(context, "12345")).rejects.toMatchObject({ status: 422 });
    const used = shown(secret, -1);
    const paper = await confirmCodes(context, used);
    expect(new Set(paper).size).toBe(10);
    const come = (code?: string) => signIn(from, { address, password: PASSWORD, ...(code ? { code } : {}) });
    const needsCode = { status: 401, more: { code: "code-needed" } };
    await expect(come()).rejects.toMatchObject(needsCode);
    await expect(come(used)).rejects.toMatchObject(needsCode);
    await expect(signIn(from, { address, password: OTHER, code: shown(secret, 1) })).rejects.toMatchObject({
      status: 401,
      more: {},
    });
    const next = shown(secret, 1);
    await come(next);
    await expect(come(next)).rejects.toMatchObject(needsCode);
    await expect(come(shown(secret, 4))).rejects.toMatchObject(needsCode);
    // As it is read off paper, without its strokes and in capital letters; many at once are one.
    await fresh.db.sql`delete from sign_in_attempt`;
    const typed = paper[3]!.replaceAll("-", " ").toUpperCase();
    expect(await outcomes([1, 2, 3].map(() => come(typed)))).toEqual({ 200: 1, 401: 2 });
    expect((await readSignedIn(context, session, false)).codes).toEqual({ areOn: true, paper: 9 });
    // A key that is gone leaves what is on paper.
    await fresh.db.sql`delete from sign_in_attempt`;
    await fresh.db.sql`update sign_in set code_step = 0`;
    const key = process.env.TACHYNE_KEY;
    process.env.TACHYNE_KEY = Buffer.alloc(32, 9).toString("base64");
    await expect(come(shown(secret))).rejects.toMatchObject(needsCode);
    await come(paper[5]);
    process.env.TACHYNE_KEY = key;
    const others = await renewPaper(context, paper[6]!);
    await fresh.db.sql`delete from sign_in_attempt`;
    await expect(come(paper[7])).rejects.toMatchObject(needsCode);
    await endCodes(context, others[0]!);
    await come();
    expect((await readSignedIn(context, session, false)).codes).toEqual({ areOn: false, paper: 0 });
  });

  test("cannot be tried one after the other at an open window", async () => {
    await fresh.db.sql`delete from sign_in_attempt`;
    const { context } = await asking(await signIn(from, { address: await first(), password: PASSWORD }));
    await beginCodes(context);
    const wrong = Array.from({ length: 20 }, () => confirmCodes(context, "x"));
    expect(await outcomes(wrong)).toEqual({ 422: 5, 429: 15 });
    // Nothing is asked for that was not confirmed.
    await fresh.db.sql`delete from sign_in_attempt`;
    await signIn(from, { address: await first(), password: PASSWORD });
  });
});
