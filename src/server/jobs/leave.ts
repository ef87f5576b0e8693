import type { Leaving, ThingEdit } from "@/core/change";
import type { PersonId } from "@/core/id";
import { docOfText } from "@/core/letter";
import { cut } from "@/core/text";
import type { Database, Transaction } from "../db";
import { askToLeave, type LeaveOutcome } from "../gateway";
import { inTurn, Refusal, sendAtOnce } from "../run";
import { readWays, takeTurn, type SourceWays } from "../store";
import { writeOutcome } from "./asked";
import { underLock } from "./lock";

/** Asks what is to be left, once its time has come. Asked twice, a list is left as much as asked once. */

const FIRST_PAUSE_MS = 60_000;
const MOST_ATTEMPTS = 8;

interface Due extends Leaving {
  readonly person: PersonId;
  readonly zone: string;
  readonly source: string;
  readonly attempt: number;
}

type Reached = Pick<Leaving, "how" | "target" | "account">;

/** Writes what has come of it. @returns whether there was still something to be left */
async function settle(
  tx: Transaction,
  seq: number,
  due: Due,
  reached: Reached,
  outcome: Exclude<LeaveOutcome, { is: "later" }>,
): Promise<boolean> {
  const { person, source, how, target, account } = due;
  const before: Leaving = { how, target, account, state: "waiting" };
  const after: Leaving = {
    how: reached.how,
    target: reached.target,
    account: reached.account,
    state: outcome.is === "left" ? "left" : "refused",
  };
  const name = outcome.is === "left" ? "Left" : "Could not leave";
  const edit: ThingEdit = { kind: "leaving", key: source, about: null, before, after };
  if (!(await writeOutcome(tx, seq, person, [edit], { name, about: source, cause: source }))) return false;
  const said = outcome.is === "left" ? null : outcome.said;
  await tx`update leaving set said = ${said} where person = ${person} and source = ${source}`;
  return true;
}

/** One request. Taken back while it was asked, nothing is written: it has been asked all the same, and more may come. */
async function click(db: Database, due: Due, reached: Reached, now: Date): Promise<void> {
  const { person, source, attempt } = due;
  const outcome = await askToLeave(db.sql, person, reached.account, reached.target);
  if (outcome.is !== "later" || attempt + 1 >= MOST_ATTEMPTS) {
    const final = outcome.is === "later" ? { is: "refused" as const, said: outcome.said } : outcome;
    await inTurn(db, person, (tx, seq) => settle(tx, seq, due, reached, final));
    return;
  }
  const next = new Date(now.getTime() + FIRST_PAUSE_MS * 2 ** attempt);
  await db.sql`
    update leaving set attempt = attempt + 1, said = ${outcome.said}, at = ${next.toISOString()}::timestamptz
    where person = ${person} and source = ${source} and state = 'waiting'`;
}

/** A letter that says so: it is in the outbox when it is said to be left, or neither is. */
const write = (db: Database, due: Due, { account, via, ways }: SourceWays): Promise<void> =>
  inTurn(db, due.person, async (tx, seq) => {
    const { to, subject, text } = ways.letter!;
    if (!(await settle(tx, seq, due, { how: "letter", target: to, account }, { is: "left" }))) return;
    const letter = {
      kind: "new",
      answers: null,
      to: [{ name: "", address: to }],
      subject: cut(subject, 200),
      body: docOfText(cut(text || subject, 2000)),
      via,
    } as const;
    await sendAtOnce(tx, due, await takeTurn(tx, due.person), letter, "outbox");
  });

/** Asks in the way its newest message names, whatever it was when it was decided. */
async function leave(db: Database, due: Due, now: Date): Promise<void> {
  const refuse = (reached: Reached, said: string) =>
    inTurn(db, due.person, (tx, seq) => settle(tx, seq, due, reached, { is: "refused", said }));
  if (due.how === "click") return click(db, due, due, now);
  const [way] = await readWays(db.sql, due.person, [due.source]);
  const { account = due.account, ways } = way ?? {};
  if (ways?.click) return click(db, due, { how: "click", target: ways.click, account }, now);
  if (way && ways?.letter) {
    const { to } = ways.letter;
    // What cannot be written, such as to no address, is nothing that waiting would mend: others wait behind it.
    return write(db, due, way).catch(async (error: unknown) => {
      if (!(error instanceof Refusal)) throw error;
      await refuse({ how: "letter", target: to, account }, error.message);
    });
  }
  if (ways?.page) await refuse({ how: "page", target: ways.page, account }, "it is left on a page of theirs only");
  else await refuse({ how: due.how, target: due.target, account }, "it says no way to leave");
}

/** Of the lock on asking: one process at a time does. */
const LEAVE_LOCK = 72_245;

/** @returns how many were asked */
export const leaveDue = async (db: Database, now: Date): Promise<number> =>
  (await underLock(db, LEAVE_LOCK, 0, () => askDue(db, now))) ?? 0;

async function askDue(db: Database, now: Date): Promise<number> {
  const due = await db.sql<Due[]>`
    select l.person, p.zone, l.source, l.how, l.target, l.account, l.state, l.attempt
    from leaving l join person p on p.id = l.person
    where l.state = 'waiting' and l.at <= ${now.toISOString()}::timestamptz order by l.at limit 50`;
  for (const one of due) await leave(db, one, now);
  return due.length;
}
