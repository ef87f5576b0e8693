import { createHash } from "node:crypto";
import { Refused } from "../../gateway";
import { boxesOf, type Round } from "./context";

/**
 * Drafts are on the server too, so that another program shows them. What is edited is here: a draft that was left is
 * put there anew, and the copy before it, like that of a letter that was sent or thrown away, is taken off.
 */

/** A draft that is just being written is not put there with each pause. */
const STILL_AFTER_MS = 20_000;
const AT_ONCE = 50;
const FLAGS = ["\\Draft", "\\Seen"];

/** The drafts there are, each with the account its letter would go by. */
const DRAFTS = `
  select d.person, d.message, m.content, m.message_id, m.date,
    (select a.id from account a where a.person = d.person
      order by (lower(a.address) = lower(d.sender->>'address')) desc, (a.kind = 'internet') desc, a.id limit 1) as account
  from draft d join message m on m.person = d.person and m.id = d.message
    join message_state s on s.person = d.person and s.message = d.message
    join folder f on f.person = s.person and f.id = s.folder and f.role = 'drafts'
  where d.person = $1`;
const UNFILED = `
  from (${DRAFTS}) d left join filed_draft k on k.person = d.person and k.message = d.message
  where d.account = $2 and k.content is distinct from d.content and d.date < $3::timestamptz
    and (k.account is null or k.account = d.account)`;
const STALE = `
  from filed_draft k where k.person = $1 and k.account = $2
    and not exists (select from (${DRAFTS}) d where d.message = k.message and d.account = k.account)`;

const stillSince = (now: Date): string => new Date(now.getTime() - STILL_AFTER_MS).toISOString();

/** Whether a draft is to be put on the server, or taken off it. */
export async function hasDrafts({ db, account, now }: Pick<Round, "db" | "account" | "now">): Promise<boolean> {
  const [row] = await db.sql.unsafe<{ is: boolean }[]>(
    `select exists (select ${UNFILED}) or exists (select ${STALE}) as is`,
    [account.person, account.id, stillSince(now)],
  );
  return row?.is ?? false;
}

const hashOf = (raw: Uint8Array): string => createHash("sha256").update(raw).digest("hex");

/** The mailbox for drafts; made where there is none. */
async function draftsBox(round: Round): Promise<string> {
  const listed = (await round.imap.mailboxes()).find(({ role }) => role === "drafts");
  if (listed) return listed.path;
  const taken = new Set((await boxesOf(round)).map(({ path }) => path));
  for (let n = 1; ; n++) {
    const path = round.imap.pathOf(n === 1 ? "Drafts" : `Drafts ${n}`);
    if (!taken.has(path))
      return await round.imap.create(n === 1 ? "Drafts" : `Drafts ${n}`).catch((error: unknown) => {
        // It is there without saying what it is for.
        if (error instanceof Refused) return path;
        throw error;
      });
  }
}

/** Takes a copy off the server, if it is there still. What another program has put in its place is its own. */
async function takeOff(round: Round, { uid, messageId }: { readonly uid: number; readonly messageId: string }) {
  if ((await round.imap.withMessageId(messageId)).includes(uid)) await round.imap.remove([uid]);
}

/** Puts drafts on the server as they were left, and takes off what is no draft any more. @returns how many were put there */
export async function fileDrafts(round: Round): Promise<number> {
  const { db, account, imap, now } = round;
  if (!(await hasDrafts(round))) return 0;
  const of = [account.person, account.id] as const;
  const path = await draftsBox(round);
  await imap.select(path);
  const stale = await db.sql.unsafe<{ message: number; uid: number; messageId: string }[]>(
    `select k.message, k.uid, k.message_id as "messageId" ${STALE} limit ${AT_ONCE}`,
    [...of],
  );
  for (const one of stale) {
    await takeOff(round, one);
    await db.sql`delete from filed_draft where person = ${account.person} and message = ${one.message}`;
  }
  const drafts = await db.sql.unsafe<
    { message: number; content: number; messageId: string; ms: number; uid: number | null }[]
  >(
    `select d.message, d.content, d.message_id as "messageId", (extract(epoch from d.date) * 1000)::float8 as ms, k.uid
     ${UNFILED} limit ${AT_ONCE}`,
    [...of, stillSince(now)],
  );
  for (const { message, content, messageId, ms, uid: before } of drafts) {
    const [source] = await db.sql<{ raw: Uint8Array }[]>`
      select raw from content where person = ${account.person} and id = ${content}`;
    if (!source) continue;
    const uid =
      (await alreadyThere(round, messageId, source.raw)) ?? (await put(round, path, messageId, source.raw, ms));
    await db.sql`
      insert into filed_draft (person, message, account, content, message_id, uid)
      values (${account.person}, ${message}, ${account.id}, ${content}, ${messageId}, ${uid})
      on conflict (person, message) do update set account = excluded.account, content = excluded.content,
        message_id = excluded.message_id, uid = excluded.uid`;
    if (before !== null && before !== uid && uid !== NOWHERE) await takeOff(round, { uid: before, messageId });
  }
  return drafts.length;
}

/** A process that was killed behind the command has left the same source there. */
async function alreadyThere({ imap }: Round, messageId: string, raw: Uint8Array): Promise<number | null> {
  const uids = await imap.withMessageId(messageId);
  const same = hashOf(raw);
  const there = uids.length === 0 ? [] : await imap.messages(uids);
  return there.find((one) => hashOf(one.raw) === same)?.uid ?? null;
}

/** What stands for the UID of a copy that cannot be told apart, or that the server did not take: it is here all the same. */
const NOWHERE = 0;

async function put({ imap }: Round, path: string, messageId: string, raw: Uint8Array, ms: number): Promise<number> {
  try {
    const said = await imap.append(path, raw, FLAGS, new Date(ms));
    return said ?? (await imap.withMessageId(messageId)).at(-1) ?? NOWHERE;
  } catch (error) {
    if (error instanceof Refused) return NOWHERE;
    throw error;
  }
}
