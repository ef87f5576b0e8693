import type { AuthenticationResponseJSON } from "@simplewebauthn/server";
import type * as z from "zod";
import type {
  beginRequest,
  invitedRequest,
  passwordRequest,
  SessionWay,
  signedRequest,
  signInRequest,
  SignedInShape,
  SignInShape,
} from "@/core/api";
import type { PersonId } from "@/core/id";
import { NOBODY, type Database, type Queryable } from "../db";
import { notFound, Refusal } from "../run";
import {
  askForSignature,
  endOthers,
  endSession as endOne,
  hashPassword,
  isPassword,
  listPasskeys,
  listSessions,
  makeOnce,
  openSession,
  takeCode,
  takeOnce,
  whoSigned,
  type Attempt,
  type Site,
} from "../sign-in";
import { counted } from "./attempts";
import { addPerson, type Beginning } from "./begin";
import type { Context } from "./context";

/** Coming in and leaving. Of whoever is not in yet only what their request says is known. */

export interface From {
  readonly db: Database;
  /** What their browser calls itself. */
  readonly agent: string;
  /** Where the request comes from; null where only this machine can ask. */
  readonly address: string | null;
  /** Whether others than this machine can ask at all. */
  readonly isPublic: boolean;
  readonly site: Site;
}

/** What everybody has who begins without mail. */
const EMPTY: Pick<Beginning, "aliases" | "folders" | "labels"> = { aliases: [], folders: [], labels: [] };
const INVITED_DAYS = 7;
/** Of the two locks of one number each that PostgreSQL has for programs: only one first person at a time. */
const FIRST_LOCK = 7_216_301;

/** The same whether the account is there or not: nobody learns who has one. */
const wrong = () =>
  new Refusal(401, "Not signed in", "The address or the password is wrong. Capital letters matter in a password.");
const over = () =>
  new Refusal(401, "The link is over", "It works once, and for a while only. Ask for another, or use your password.");

const isEmpty = async (sql: Queryable): Promise<boolean> => (await sql`select 1 from person limit 1`).length === 0;

/** Who is signed in, and whether anybody could be. */
export async function readSignIn(
  { db, isPublic }: Pick<From, "db" | "isPublic">,
  person: PersonId | null,
): Promise<SignInShape> {
  const none = { person: null, isEmpty: false, byLink: false };
  if (person === null) return (await isEmpty(db.sql)) ? { ...none, isEmpty: true, byLink: isPublic } : none;
  const [row] = await db.sql<
    { name: string; address: string }[]
  >`select name, address from person where id = ${person}`;
  return { ...none, person: row ?? null };
}

/** Attempts at an account, from wherever they come. */
export const triedBy = (from: From, account: string): readonly [Attempt, ...Attempt[]] => [
  { kind: "account", name: account },
  ...(from.address === null ? [] : [{ kind: "from", name: from.address } as const]),
];

async function checkCode(db: Database, person: PersonId, code: string | undefined): Promise<void> {
  if (code === undefined)
    throw new Refusal(
      401,
      "A code is needed",
      "Write the six digits that your app shows now, or one of your codes on paper.",
      {
        code: "code-needed",
      },
    );
  const isRight = await db.sql.begin((tx) => takeCode(tx, person, code));
  if (!isRight)
    throw new Refusal(401, "Not that code", "The code is wrong, or was used. Wait for the next one, and write that.", {
      code: "code-needed",
    });
}

/** @returns what the browser is to hold @throws Refusal (401, 429) */
export function signIn(from: From, asked: z.infer<typeof signInRequest>): Promise<string> {
  const address = asked.address.trim();
  const { db } = from;
  return counted(db, triedBy(from, address), async () => {
    const [found] = await db.sql<{ person: PersonId; password: string | null; codes: boolean }[]>`
      select person, password, code_since is not null as codes from sign_in where lower(address) = lower(${address})`;
    const isIt = await isPassword(found?.password ?? null, asked.password);
    if (!found || !isIt) throw wrong();
    if (found.codes) await checkCode(db, found.person, asked.code);
    return openSession(db.sql, found.person, "password", from.agent);
  });
}

async function beginAs(
  from: From,
  asked: z.infer<typeof beginRequest>,
  way: SessionWay,
  hash: string,
  sql: Queryable,
  person: PersonId,
): Promise<string> {
  const added = await sql`insert into sign_in (person, address, password)
    values (${person}, ${asked.address}, ${hash}) on conflict do nothing returning person`;
  if (added.length === 0)
    throw new Refusal(409, "There already", `Somebody signs in with ${asked.address}. Use another address.`);
  return openSession(sql, person, way, from.agent);
}

const beginningOf = ({ name, address, zone }: z.infer<typeof beginRequest>): Beginning => ({
  name: name.trim(),
  address,
  zone,
  ...EMPTY,
});

/**
 * A link's secret part by which the first person begins on a server that others reach: an invitation from nobody.
 * @returns null where somebody has begun
 */
export const inviteFirst = async (db: Database, minutes: number): Promise<string | null> =>
  (await isEmpty(db.sql)) ? makeOnce(db, NOBODY, "invitation", minutes) : null;

/** Makes the first person. @throws Refusal (403) where it takes a link, (409) where there is one */
export async function beginFirst(from: From, asked: z.infer<typeof beginRequest>): Promise<string> {
  if (from.isPublic)
    throw new Refusal(403, "By its link", "The first person begins here by the link that `npm run sign-in` prints.");
  const hash = await hashPassword(asked.password);
  return addPerson(from.db, beginningOf(asked), {
    before: async (tx) => {
      await tx`select pg_advisory_xact_lock(${FIRST_LOCK})`;
      if (!(await isEmpty(tx)))
        throw new Refusal(409, "There already", "Somebody has begun here. Sign in, or ask them to invite you.");
    },
    after: (tx, person) => beginAs(from, asked, "beginning", hash, tx, person),
  });
}

/** Signs in whoever has a link for it. @throws Refusal (401) */
export async function signInByLink(from: From, link: string): Promise<string> {
  const person = await takeOnce(from.db.sql, link, "in");
  if (!person) throw over();
  return openSession(from.db.sql, person, "link", from.agent);
}

/** What the browser's device is to sign. */
export const askPasskey = ({ db, site }: From) => askForSignature(db, site);

/** Signs in whoever's passkey has signed. @throws Refusal (401) */
export async function signInByPasskey(
  from: From,
  credential: z.infer<typeof signedRequest>["credential"],
): Promise<string> {
  const person = await whoSigned(from.db, credential as unknown as AuthenticationResponseJSON, from.site);
  if (person === null)
    throw new Refusal(401, "Not signed in", "That passkey is not known here, or it took too long. Try again.");
  return openSession(from.db.sql, person, "passkey", from.agent);
}

/** Begins a mailbox for somebody who was invited. @throws Refusal (401, 409) */
export async function beginInvited(from: From, asked: z.infer<typeof invitedRequest>): Promise<string> {
  const hash = await hashPassword(asked.password);
  return addPerson(from.db, beginningOf(asked), {
    // In the same transaction: what is refused has not used the invitation up.
    before: async (tx) => {
      if ((await takeOnce(tx, asked.link, "invitation")) === null) throw over();
    },
    after: (tx, person) => beginAs(from, asked, "invitation", hash, tx, person),
  });
}

/** Whoever began here decides who else may. */
const mayInvite = async ({ db, person }: Context): Promise<boolean> =>
  (await db.as(NOBODY).sql<{ first: number }[]>`select min(id) as first from person`)[0]!.first === person;

export async function invitePerson(context: Context): Promise<{ link: string; days: number }> {
  if (!(await mayInvite(context)))
    throw new Refusal(403, "Not yours to do", "Only the person who began here can invite others.");
  return { link: await makeOnce(context.db, context.person, "invitation", INVITED_DAYS * 1440), days: INVITED_DAYS };
}

/** How a person comes in, and where they are in. @param mustProve as `prove` says */
export async function readSignedIn(context: Context, session: string, mustProve: boolean): Promise<SignedInShape> {
  const { db, person } = context;
  const [row] = await db.sql<{ address: string; hasPassword: boolean; areOn: boolean; paper: number }[]>`
    select coalesce(s.address, p.address) as address, s.password is not null as "hasPassword",
      s.code_since is not null as "areOn",
      (select count(*)::int from recovery_code r where r.person = p.id) as paper
    from person p left join sign_in s on s.person = p.id where p.id = ${person}`;
  const sessions = await listSessions(db, person);
  return {
    address: row!.address,
    hasPassword: row!.hasPassword,
    mayInvite: await mayInvite(context),
    mustProve,
    passkeys: await listPasskeys(db, person),
    codes: { areOn: row!.areOn, paper: row!.paper },
    sessions: sessions.map((one) => ({ ...one, isThis: one.id === session })),
  };
}

export async function endSession({ db, person }: Context, id: string): Promise<void> {
  if (!(await endOne(db, person, id))) throw notFound("session", id);
}

export const endOtherSessions = ({ db, person }: Context, session: string): Promise<number> =>
  endOthers(db, person, session);

const notChanged = async (sql: Queryable, person: PersonId, address: string): Promise<Refusal> =>
  (await sql`select 1 from sign_in where person = ${person}`).length > 0
    ? new Refusal(422, "Not changed", "It was changed in another window just now. That one is your password.")
    : new Refusal(409, "There already", `Somebody else signs in with ${address}.`);

/** Everywhere else the person is signed out: whoever knew the old one is out. @throws Refusal (422, 409, 429) */
export async function changePassword(
  { db, person }: Context,
  session: string,
  from: From,
  { old, password }: z.infer<typeof passwordRequest>,
): Promise<void> {
  const [row] = await db.sql<{ address: string; password: string | null }[]>`
    select coalesce(s.address, p.address) as address, s.password
    from person p left join sign_in s on s.person = p.id where p.id = ${person}`;
  if (row!.password !== null)
    await counted(db, triedBy(from, row!.address), async () => {
      if (!(await isPassword(row!.password, old)))
        throw new Refusal(422, "Not changed", "That is not the password you have now.");
    });
  const hash = await hashPassword(password);
  await db.sql.begin(async (tx) => {
    await tx`insert into sign_in (person, address) values (${person}, ${row!.address}) on conflict do nothing`;
    // Only the one that was shown to be known is replaced: of windows that do so at once, one does.
    const changed = await tx`update sign_in set password = ${hash}, changed_at = now()
      where person = ${person} and password is not distinct from ${row!.password} returning person`;
    if (changed.length === 0) throw await notChanged(tx, person, row!.address);
    await tx`delete from once_link where person = ${person} and kind = 'in'`;
    await endOthers({ sql: tx }, person, session);
  });
}
