import { randomUUID } from "node:crypto";
import { changeOfMessages, type HeldState, type MessageEdit } from "@/core/change";
import { messageId, runId, type MessageId, type PersonId } from "@/core/id";
import { needsUtf8 } from "@/core/letter";
import { folderFor } from "@/core/place";
import { cut } from "@/core/text";
import type { Database, Transaction } from "../db";
import { carrierOf, findAccount, GatewayAway, NoKey, type Account, type Carrier, type SendOutcome } from "../gateway";
import { PRACTICE_DOMAIN } from "../letters";
import { inTurn, readDirectory } from "../run";
import {
  appendArrival,
  appendEntry,
  claimHeld,
  markAnswered,
  noteWrittenTo,
  ownAddresses,
  readStates,
  reserve,
  takeTurn,
  tell,
  writeChange,
} from "../store";
import { underLock } from "./lock";

/** Lets go what is held back: each message to each recipient at the most once, and never lost. */

/** First half of the two-part key of the locks on messages being sent; the second is the message. */
const SEND_LOCK = 72_242;
const LARGEST_KEY = 2 ** 31 - 1;

const FIRST_PAUSE_MS = 30_000;
const LONGEST_PAUSE_MS = 3_600_000;
/** What could not be handed over for so long is given up. */
const GIVEN_UP_AFTER_MS = 2 * 86_400_000;

export interface Recipient {
  readonly address: string;
  readonly state: "waiting" | "accepted" | "refused";
  /** The server's words. */
  readonly said: string | null;
}

interface Due {
  readonly person: PersonId;
  readonly message: MessageId;
  readonly account: number | null;
  readonly state: string;
  readonly attempt: number;
  readonly from: string;
  readonly recipients: readonly Recipient[];
  readonly triedSince: number | null;
}

const dueNow = (db: Database, now: Date): Promise<Due[]> =>
  db.sql<Due[]>`
    select person, message, account, state, attempt, mail_from as from, recipients,
      (extract(epoch from tried_since) * 1000)::float8 as "triedSince"
    from held where at <= ${now.toISOString()}::timestamptz and state in ('waiting', 'later', 'sending')
    order by at, message limit 50`;

interface About {
  readonly subject: string;
  readonly answers: MessageId | null;
  readonly sent: number | null;
  readonly sentToo: boolean;
}

async function aboutOf(tx: Transaction, person: PersonId, message: MessageId): Promise<About> {
  const [row] = await tx<About[]>`
    select m.subject, d.answers, d.sent, coalesce(d.sent_too, false) as "sentToo"
    from message m left join draft d on d.person = m.person and d.message = m.id
    where m.person = ${person} and m.id = ${message}`;
  return row ?? { subject: "", answers: null, sent: null, sentToo: false };
}

/** What follows from a letter that went: whom it answers is answered, whom it went to is known. */
async function follow(tx: Transaction, person: PersonId, seq: number, message: MessageId, answers: MessageId | null) {
  const [sent] = await tx<{ to: { name: string; address: string }[]; from: string; ms: number }[]>`
    select d.recipients || d.cc || d.bcc as to, d.sender->>'address' as from, (extract(epoch from now()) * 1000)::float8 as ms
    from draft d where d.person = ${person} and d.message = ${message}`;
  if (sent)
    await noteWrittenTo(tx, person, await ownAddresses(tx, person), [
      { from: { name: "", address: sent.from }, to: sent.to, cc: [], date: new Date(sent.ms) },
    ]);
  const answered = answers === null ? [] : await markAnswered(tx, person, answers);
  await tx`delete from draft where person = ${person} and message = ${message}`;
  await tx`delete from draft_file where person = ${person} and message = ${message}`;
  if (answered.length === 0) return seq;
  await appendArrival(tx, person, seq, runId(randomUUID()), answered);
  return takeTurn(tx, person);
}

/** Notes that a letter has gone: out of the outbox, into Sent or where it is to be kept. */
export async function noteSent(
  tx: Transaction,
  person: PersonId,
  first: number,
  message: MessageId,
  from: Extract<HeldState, "sending" | "unsure">,
  by: { readonly actor: "outbox" | "person"; readonly cause: string | null },
): Promise<void> {
  const { folders } = await readDirectory(tx, person);
  const { subject, answers, sent, sentToo } = await aboutOf(tx, person, message);
  const seq = await follow(tx, person, first, message, answers);
  const sentFolder = folderFor({ folders, labels: [], markers: [] }, "sent")!;
  const into = folders.find(({ id }) => id === sent) ?? sentFolder;
  const state = (await readStates(tx, person, [message])).get(message);
  if (!state) return;
  const edits = new Map<MessageId, readonly MessageEdit[]>();
  if (state.folder !== into.id) edits.set(message, [{ kind: "folder", before: state.folder, after: into.id }]);
  if (sentToo && into.id !== sentFolder.id) {
    const [copy] = await reserve(tx, "message", 1);
    const beside = { ...state, folder: sentFolder.id };
    edits.set(messageId(copy!), [{ kind: "exists", before: null, after: { source: message, state: beside } }]);
  }
  const change = changeOfMessages(edits, [
    { kind: "held", key: String(message), about: message, before: from, after: "sent" },
  ]);
  const written = await writeChange(tx, person, change);
  await appendEntry(
    tx,
    person,
    {
      seq,
      id: runId(randomUUID()),
      kind: "run",
      ...by,
      of: null,
      macro: null,
      name: "Sent",
      steps: [],
      about: cut(subject || "(no subject)", 200),
      messages: 1,
      skipped: written.skipped,
    },
    written.change,
  );
}

/** The next time it is tried: each time in a row a little later. */
const pauseAfter = (attempt: number): number => Math.min(LONGEST_PAUSE_MS, FIRST_PAUSE_MS * 2 ** Math.min(attempt, 10));

function recipientsAfter(due: Due, outcome: SendOutcome): Recipient[] {
  const turned = outcome.is === "accepted" || outcome.is === "refused" ? outcome.turned : [];
  const otherwise = outcome.is === "accepted" ? "accepted" : outcome.is === "refused" ? "refused" : "waiting";
  return due.recipients.map((one) => {
    const said = turned.find(({ address }) => address === one.address)?.said;
    if (said !== undefined) return { ...one, state: "refused", said };
    return { ...one, state: otherwise, said: outcome.is === "refused" ? outcome.said : null };
  });
}

async function note(
  db: Database,
  due: Due,
  attempt: number,
  outcome: SendOutcome,
  now: Date,
  by: Account | null,
): Promise<void> {
  const { person, message } = due;
  await inTurn(db, person, async (tx, seq) => {
    const [row] = await tx<{ state: HeldState }[]>`
      select state from held where person = ${person} and message = ${message} and attempt = ${attempt}
        and state in ('sending', 'unsure')`;
    // Somebody else has found out meanwhile what became of it.
    if (!row) return;
    const said = "said" in outcome ? outcome.said : null;
    const recipients = JSON.stringify(recipientsAfter(due, outcome));
    const since = due.triedSince ?? now.getTime();
    const over = now.getTime() - since > GIVEN_UP_AFTER_MS;
    const state =
      outcome.is === "later" ? (over ? "refused" : "later") : outcome.is === "accepted" ? row.state : outcome.is;
    await tx`
      update held set recipients = ${recipients}::text::jsonb, state = ${state}, said = ${said},
        account = coalesce(${by?.id ?? null}::int, account), tried_since = ${outcome.is === "later" ? new Date(since).toISOString() : null},
        at = ${new Date(now.getTime() + (outcome.is === "later" ? pauseAfter(attempt - 1) : 0)).toISOString()}
      where person = ${person} and message = ${message}`;
    if (outcome.is === "accepted")
      await noteSent(tx, person, seq, message, row.state as "sending", {
        actor: "outbox",
        cause: by?.name ?? null,
      });
    await tell(tx, person, "outgoing");
  });
}

async function handOver(db: Database, due: Due, account: Account): Promise<SendOutcome> {
  const to = due.recipients.filter(({ state }) => state !== "accepted").map(({ address }) => address);
  const [content] = await db.sql<{ raw: Uint8Array }[]>`
    select c.raw from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${due.person} and m.id = ${due.message}`;
  if (!content) return { is: "refused", said: "The message is not here any more.", turned: [] };
  // Letters to nobody go nowhere, whoever would carry them.
  if (to.every((address) => address.endsWith(`@${PRACTICE_DOMAIN}`))) return { is: "accepted", turned: [] };
  try {
    return await carry(await carrierOf(db.sql, account), due.from, to, content.raw);
  } catch (error) {
    // Nothing has been handed over yet.
    if (error instanceof NoKey || error instanceof GatewayAway) return { is: "later", said: error.message };
    throw error;
  }
}

async function carry(carrier: Carrier, from: string, to: readonly string[], raw: Uint8Array): Promise<SendOutcome> {
  const beyond = [from, ...to].find(needsUtf8);
  if (beyond !== undefined && !(await carrier.can()).utf8) {
    const said = `${beyond} has letters outside ASCII before the @, which the mail service does not take.`;
    return { is: "refused", said, turned: [] };
  }
  return carrier.send({ from, to }, raw);
}

/** Nobody is at it, and it says that somebody was: what became of it only the service knows. */
const isLeft = (db: Database, { person, message, attempt }: Due): Promise<void> =>
  inTurn(db, person, async (tx) => {
    await tx`
      update held set state = 'unsure', said = 'The program ended while it was being sent.'
      where person = ${person} and message = ${message} and attempt = ${attempt} and state = 'sending'`;
    await tell(tx, person, "outgoing");
  });

/** Said, so that nobody waits without knowing for what. */
const NO_ACCOUNT: SendOutcome = { is: "later", said: "There is no mail account to send it through." };

async function letGo(db: Database, due: Due, now: Date): Promise<boolean> {
  if (due.state === "sending") {
    await isLeft(db, due);
    return false;
  }
  const { person, message, attempt } = due;
  const account = await findAccount(db.sql, person, due.account);
  if (!(await inTurn(db, person, (tx) => claimHeld(tx, person, message, attempt)))) return false;
  await tell(db.sql, person, "outgoing");
  const outcome = account ? await handOver(db, due, account) : NO_ACCOUNT;
  await note(db, due, attempt + 1, outcome, now, account);
  return outcome.is === "accepted";
}

/** Sends what is due by now, and finds what was being sent when its program ended. @returns how many went */
export async function sendDue(db: Database, now: Date): Promise<number> {
  let count = 0;
  for (const due of await dueNow(db, now)) {
    // Whoever sends it holds the lock; with their connection it is free again.
    const went = await underLock(db, SEND_LOCK, due.message % LARGEST_KEY, () => letGo(db, due, now));
    if (went) count++;
  }
  return count;
}
