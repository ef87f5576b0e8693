import type { z } from "zod";
import type {
  accountPatch,
  AccountShape,
  FoundServers,
  NewAccount,
  Servers,
  serversRequest,
  TroubleShape,
} from "@/core/api";
import { changeOfMessages, type MessageEdit } from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import { isAddress } from "@/core/letter";
import { folderFor } from "@/core/place";
import { plural } from "@/core/text";
import type { Queryable, Transaction } from "../db";
import { aboutSecret, find, heldOf, sealHeld, serverAccounts, type Held, type ServerAccount } from "../gateway";
import { inTurn, notFound, readDirectory, Refusal } from "../run";
import { endComing, readStates, tell } from "../store";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";
import { heldIn, mustWork, withKey } from "./try-servers";

/** A person's accounts with mail servers: connected, paused, mended, given up. */

type Row = Omit<AccountShape, "since" | "askedAt"> & { readonly since: number | null; readonly asked: number | null };

async function shapes(sql: Queryable, person: number, id: number | null): Promise<AccountShape[]> {
  const rows = await sql<Row[]>`
    select a.id, a.kind, a.name, a.address, a.servers, a.without, (extract(epoch from a.since) * 1000)::float8 as since,
      a.is_paused as "isPaused", (extract(epoch from a.asked_at) * 1000)::float8 as asked, a.doing, a.done, a.total, a.trouble,
      coalesce(a.look_at > coalesce(a.looked_at, '-infinity'), false) as looks,
      (select count(*)::int from placement p where p.person = a.person and p.account = a.id) as messages,
      (select count(*)::int from coming c where c.person = a.person and c.account = a.id) as coming,
      (select count(*)::int from due d join placement p on p.person = d.person and p.message = d.message
        where p.person = a.person and p.account = a.id) as waiting,
      (select count(*)::int from placement p where p.person = a.person and p.account = a.id and p.refused is not null) as refused
    from account a where a.person = ${person} and (${id}::int is null or a.id = ${id}) order by a.id`;
  const iso = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString());
  return rows.map(({ since, asked, ...row }) => ({ ...row, since: iso(since), askedAt: iso(asked) }));
}

export const listAccounts = ({ db, person }: Context): Promise<AccountShape[]> => shapes(db.sql, person, null);

/** Those whose servers cannot be asked now: what every window looks at, so nothing is counted for it. */
export const listTroubles = ({ db, person }: Context): Promise<TroubleShape[]> =>
  db.sql<TroubleShape[]>`
    select id, name, address, trouble as said from account
    where person = ${person} and kind = 'internet' and not is_paused and trouble is not null order by id`;

async function one(sql: Queryable, person: number, id: number): Promise<AccountShape> {
  const [shape] = await shapes(sql, person, id);
  if (!shape) throw notFound("account", id);
  return shape;
}

function mustBeAddress(address: string): void {
  if (!isAddress(address))
    throw new Refusal(422, "Not an address", `"${address}" cannot be an address. Write one such as desk@huts.example.`);
}

/** Where the servers of an address seem to be; nothing is said to them. */
export function findServers(_: Context, { address }: z.infer<typeof serversRequest>): Promise<FoundServers> {
  mustBeAddress(address);
  return find(address);
}

const sealed = (servers: Servers, held: Held, person: PersonId, id: number): Buffer =>
  withKey(() => sealHeld(servers, held, aboutSecret(person, id)));

/** What accounts there are is part of what a window begins with. */
async function tellOf(tx: Transaction, person: PersonId): Promise<void> {
  await tell(tx, person, "accounts");
  await tell(tx, person, "settings");
}

/** Tried before it is stored: what does not work is not there. */
export async function createAccount(context: Context, body: NewAccount): Promise<AccountShape> {
  const { db, person } = context;
  mustBeAddress(body.address);
  sealed(body.servers, heldIn(body), person, 0);
  const held = await mustWork(body.servers, heldIn(body));
  return inTurn(db, person, async (tx) => {
    const [taken] = await tx`
      select from account where person = ${person} and kind = 'internet' and lower(address) = lower(${body.address})`;
    if (taken)
      throw new Refusal(
        409,
        "It is here already",
        `${body.address} is connected already. Change that account instead.`,
      );
    const [row] = await tx<{ id: number }[]>`
      insert into account (person, kind, name, address, servers, since, without)
      values (${person}, 'internet', ${body.name}, ${body.address}, ${JSON.stringify(body.servers)}::text::jsonb, ${body.since},
        ${body.without}::text[])
      returning id`;
    const { id } = row!;
    await tx`update account set secret = ${sealed(body.servers, held, person, id)} where person = ${person} and id = ${id}`;
    await nameIdentity(tx, person, body);
    await tellOf(tx, person);
    return one(tx, person, id);
  });
}

/** Who can get mail at an address writes from it too. */
async function nameIdentity(
  tx: Transaction,
  person: PersonId,
  { address }: Pick<NewAccount, "address">,
): Promise<void> {
  const rows = await tx`
    insert into identity (person, name, address, signature, position)
    select ${person}, coalesce((select name from identity where person = ${person} order by position, id limit 1), ''), ${address}, '',
      coalesce((select max(position) + 1 from identity where person = ${person}), 0)
    where not exists (select from identity where person = ${person} and lower(address) = lower(${address})) returning id`;
  if (rows.length > 0) await tell(tx, person, "settings");
}

/** What is to be sealed after a change; null where nothing about signing in changes. */
async function tried(
  full: ServerAccount,
  servers: Servers,
  secret?: string,
  clientSecret?: string,
): Promise<Held | null> {
  if (servers === full.servers && secret === undefined && clientSecret === undefined) return null;
  // What is typed anew is opened by no key that may have been lost.
  const isWhole = secret !== undefined && (clientSecret !== undefined || servers.method !== "renewed");
  const known = isWhole ? { secret, clientSecret: null } : withKey(() => heldOf(full));
  return mustWork(servers, { secret: secret ?? known.secret, clientSecret: clientSecret ?? known.clientSecret });
}

export async function changeAccount(
  context: Context,
  id: number,
  { name, servers, secret, clientSecret, since, without, isPaused }: z.infer<typeof accountPatch>,
): Promise<AccountShape> {
  const { db, person } = context;
  const [full] = await serverAccounts(db.sql, person, id);
  if (!full) throw notFound("account", id);
  const used = servers ?? full.servers;
  const held = await tried(full, used, secret, clientSecret);
  return inTurn(db, person, async (tx) => {
    const key = held && sealed(used, held, person, id);
    await tx`
      update account set name = coalesce(${name ?? null}, name), secret = coalesce(${key}::bytea, secret),
        servers = coalesce(${servers === undefined ? null : JSON.stringify(servers)}::text::jsonb, servers),
        since = case when ${since === undefined} then since else ${since ?? null}::timestamptz end,
        without = coalesce(${without ?? null}::text[], without),
        is_paused = coalesce(${isPaused ?? null}::boolean, is_paused), trouble = null, failures = 0, retry_at = now(), look_at = now()
      where person = ${person} and id = ${id}`;
    // Mail from further back is looked for.
    if (since !== undefined) await tx`update mailbox set is_whole = false where person = ${person} and account = ${id}`;
    if (without !== undefined) await leaveAlone(tx, person, id, without);
    await tellOf(tx, person);
    return one(tx, person, id);
  });
}

/** What is here of folders that are left alone from now on stays, and no longer follows the server. */
async function leaveAlone(tx: Transaction, person: PersonId, id: number, without: readonly string[]): Promise<void> {
  const boxes = await tx<{ id: number }[]>`
    delete from mailbox where person = ${person} and account = ${id} and path = any(${[...without]}::text[]) returning id`;
  await tx`
    delete from placement where person = ${person} and account = ${id}
      and mailbox = any(${boxes.map((box) => box.id)}::int[])`;
  await forgetDue(tx, person);
  await endComing(tx, person);
  // What was put into a place that was left alone until now has not gone there yet.
  await tx`
    insert into due (person, message) select p.person, p.message
    from placement p join message_state s on s.person = p.person and s.message = p.message and s.folder <> p.folder
    where p.person = ${person} and p.account = ${id}
    on conflict (person, message) do update set writes = due.writes + 1`;
}

/** Of what is on no server nothing is due. */
const forgetDue = (tx: Transaction, person: PersonId) => tx`
  delete from due d where d.person = ${person}
    and not exists (select from placement p where p.person = d.person and p.message = d.message)`;

/** Looks for new mail now, at every account. */
export async function lookNow({ db, person }: Context): Promise<AccountShape[]> {
  await db.sql`update account set look_at = now(), retry_at = now(), failures = 0 where person = ${person}`;
  return shapes(db.sql, person, null);
}

/** Tries again what the server did not do. */
export async function tryRefused({ db, person }: Context, id: number): Promise<AccountShape> {
  await db.sql.begin(async (tx) => {
    await tx`
      insert into due (person, message) select person, message from placement
      where person = ${person} and account = ${id} and refused is not null
      on conflict (person, message) do update set writes = due.writes + 1`;
    await tx`update placement set refused = null where person = ${person} and account = ${id} and refused is not null`;
  });
  return one(db.sql, person, id);
}

/**
 * Gives an account up. The server keeps what it has.
 * @param mail what becomes of its mail here: it stays, or goes to the trash as a run that can be taken back
 */
export async function deleteAccount(context: Context, id: number, mail: "keep" | "trash"): Promise<void> {
  const { db, person } = context;
  await inTurn(db, person, async (tx, seq) => {
    const account = await one(tx, person, id);
    if (account.kind !== "internet")
      throw new Refusal(409, "It belongs to the demo", "The simulated service stays as long as its mail does.");
    // First of all: a round that is writing its last piece is waited for, and its messages are among these.
    await tx`delete from account where person = ${person} and id = ${id}`;
    const rows = await tx<{ message: number }[]>`
      delete from placement where person = ${person} and account = ${id} returning message`;
    await tx`delete from mailbox where person = ${person} and account = ${id}`;
    await tx`delete from filed_draft where person = ${person} and account = ${id}`;
    await forgetDue(tx, person);
    await endComing(tx, person);
    const called = account.name || account.address;
    if (mail === "trash")
      await toTrash(
        tx,
        context,
        seq,
        rows.map(({ message }) => messageId(message)),
        called,
      );
    await tellOf(tx, person);
  });
}

async function toTrash(
  tx: Transaction,
  context: Context,
  seq: number,
  ids: readonly MessageId[],
  called: string,
): Promise<void> {
  const trash = folderFor(await readDirectory(tx, context.person), "trash");
  const edits = new Map<MessageId, MessageEdit[]>();
  for (const [id, { folder }] of await readStates(tx, context.person, ids))
    if (trash && folder !== trash.id) edits.set(id, [{ kind: "folder", before: folder, after: trash.id }]);
  const name = `Mail of ${called} to the trash`;
  await writeByHand(tx, context, seq, changeOfMessages(edits), {
    name,
    about: plural(edits.size, "message"),
    messages: edits.size,
  });
}
