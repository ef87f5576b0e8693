import { randomUUID } from "node:crypto";
import { isEmpty, type Change } from "@/core/change";
import { runId, type FolderId, type MessageId } from "@/core/id";
import type { Directory } from "@/core/place";
import { NO_WORDS, wordsOf, type Shared, type Words } from "@/core/sync";
import { cut } from "@/core/text";
import type { Database, Transaction } from "../../db";
import type { Imap, ServerAccount } from "../../gateway";
import { readDirectory } from "../../run";
import { appendArrival, appendEntry, claimMessages, tell, writeChange } from "../../store";
import type { ParsedItem, WordsItem } from "../../parse";

/** What one round with an account's server goes on. */
export interface Round {
  readonly db: Database;
  readonly account: ServerAccount;
  readonly imap: Imap;
  readonly parse: (raws: readonly Uint8Array[]) => Promise<readonly ParsedItem[]>;
  /** What it takes to find them by their words, too. */
  readonly words: (raws: readonly Uint8Array[]) => Promise<readonly WordsItem[]>;
  readonly now: Date;
  /** Asks for another round: something is not where it was. */
  readonly again: () => void;
  /** Mailboxes whose server keeps no keywords. */
  readonly wordless: Set<number>;
  /** How the inbox was when it was watched last. */
  readonly watched: { as: string };
}

/** A mailbox on the server, and how far it has been taken in. */
export interface Box {
  readonly id: number;
  readonly path: string;
  readonly folder: FolderId;
  readonly validity: number;
  readonly nextUid: number;
  readonly modseq: number;
  readonly messages: number;
  readonly isWhole: boolean;
}

/** A message on the server, and what both sides agreed on last. */
export interface Placed extends Shared {
  readonly message: MessageId;
  readonly mailbox: number;
  readonly uid: number | null;
}

/** Which keywords stand for labels and markers in a mailbox. */
export const wordsIn = ({ wordless }: Round, directory: Directory, box: number): Words =>
  wordless.has(box) ? NO_WORDS : wordsOf(directory);

/** Opens a mailbox for what follows. */
export async function select({ imap, wordless }: Round, { id, path }: Pick<Box, "id" | "path">): Promise<void> {
  if (await imap.select(path)) wordless.delete(id);
  else wordless.add(id);
}

export const boxesOf = ({ db, account }: Round): Promise<Box[]> =>
  db.sql<Box[]>`
    select b.id, b.path, b.folder, b.validity, b.next_uid as "nextUid", b.modseq, b.messages, b.is_whole as "isWhole"
    from mailbox b join folder f on f.person = b.person and f.id = b.folder
    where b.person = ${account.person} and b.account = ${account.id}
    order by f.role is distinct from 'inbox', f.role is not distinct from 'junk', f.role is not distinct from 'trash', b.path`;

export const PLACED = `p.message, p.mailbox, p.uid, p.folder, p.read, p.flagged, p.answered, p.words`;

/** The person has paused the account, or given it up: nothing more is asked of its server. */
export class Stopped extends Error {
  override readonly name = "Stopped";
}

/**
 * Where messages are on the server from now on, and what both sides have agreed on.
 * @throws Stopped where the account, or one of the folders, has been given up meanwhile
 */
export async function place(tx: Transaction, { account }: Round, placed: readonly Placed[]): Promise<void> {
  if (placed.length === 0) return;
  const boxes = [...new Set(placed.map(({ mailbox }) => mailbox))];
  const [[there], known] = await Promise.all([
    // Held until the end of the transaction: who gives the account up waits for it, and takes these along.
    tx`select id from account where person = ${account.person} and id = ${account.id} for share`,
    tx`select id from mailbox where person = ${account.person} and account = ${account.id} and id = any(${boxes}::int[])`,
  ]);
  if (!there) throw new Stopped("It was given up.");
  if (known.length < boxes.length) throw new Stopped("One of its folders is left alone from now on.");
  await tx`
    insert into placement (person, message, account, mailbox, folder, uid, read, flagged, answered, words)
    select ${account.person}, r.message, ${account.id}, r.mailbox, r.folder, r.uid, r.read, r.flagged, r.answered, r.words
    from jsonb_to_recordset(${JSON.stringify(placed)}::text::jsonb)
      as r(message bigint, mailbox int, folder int, uid bigint, read boolean, flagged boolean, answered boolean, words text[])
    on conflict (person, message) do update set account = excluded.account, mailbox = excluded.mailbox,
      folder = excluded.folder, uid = excluded.uid, read = excluded.read, flagged = excluded.flagged,
      answered = excluded.answered, words = excluded.words, refused = null`;
}

/** Messages that were here before the account held them are of it from now on. */
export async function claim(
  tx: Transaction,
  { account: { person, id } }: Round,
  seq: number,
  messages: readonly MessageId[],
): Promise<void> {
  const claimed = await claimMessages(tx, person, id, messages);
  if (claimed.length > 0) await appendArrival(tx, person, seq, runId(randomUUID()), claimed);
}

/** Notes messages that may differ from what the server has. */
export const noteDue = (tx: Transaction, { account: { person } }: Round, messages: readonly MessageId[]) =>
  tx`
    insert into due (person, message) select ${person}, m from unnest(${`{${messages.join(",")}}`}::text::bigint[]) m
    on conflict (person, message) do update set writes = due.writes + 1`;

const LONGEST_NAME = 80;

/** Writes what the server did, as an entry of its own. What is so already is no entry. */
export async function enter(
  tx: Transaction,
  { account: { person, name: cause } }: Round,
  seq: number,
  wanted: Change,
  { name, about }: { readonly name: string; readonly about: string },
): Promise<void> {
  const { change, skipped } = await writeChange(tx, person, wanted);
  if (isEmpty(change) && skipped.length === 0) return;
  await appendEntry(
    tx,
    person,
    {
      seq,
      id: runId(randomUUID()),
      kind: "run",
      actor: "server",
      cause,
      of: null,
      macro: null,
      name: cut(name, LONGEST_NAME),
      steps: [],
      about,
      messages: wanted.messages.size,
      skipped,
    },
    change,
  );
}

/**
 * Says what the account is at; windows that show it read it anew.
 * @returns whether somebody has asked for new mail meanwhile
 * @throws Stopped where the person has stopped it
 */
export async function say(
  { db, account: { person, id } }: Round,
  doing: string | null,
  done = 0,
  total = 0,
): Promise<boolean> {
  const [row] = await db.sql<{ isPaused: boolean; looks: boolean }[]>`
    update account set doing = ${doing}, done = ${done}, total = ${total}, asked_at = now()
    where person = ${person} and id = ${id} 
    returning is_paused as "isPaused", coalesce(look_at > coalesce(looked_at, '-infinity'), false) as looks`;
  await tell(db.sql, person, "accounts");
  if (!row || row.isPaused) throw new Stopped("It was stopped.");
  return row.looks;
}

export const directoryOf = ({ db, account }: Round): Promise<Directory> => readDirectory(db.sql, account.person);
