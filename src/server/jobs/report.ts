import type { Report, ThingEdit } from "@/core/change";
import { messageId, type PersonId } from "@/core/id";
import { plural } from "@/core/text";
import type { Database } from "../db";
import { tellSimulated } from "../gateway";
import { inTurn } from "../run";
import { writeOutcome } from "./asked";
import { underLock } from "./lock";

/** Tells the services that mail came through what of it is junk, or meant to deceive. */

/** A report whose time has come. */
export interface DueReport {
  readonly message: number;
  readonly as: Report["as"];
}

/**
 * Notes what was told, or could not be.
 * @returns whether there was still something to be told: it may have been taken back meanwhile
 */
export const noteReports = (
  db: Database,
  person: PersonId,
  reports: readonly DueReport[],
  state: "told" | "refused",
  tellAll: (tx: Parameters<typeof tellSimulated>[0]) => Promise<unknown> = () => Promise.resolve(),
): Promise<boolean> =>
  inTurn(db, person, async (tx, seq) => {
    const edits = reports.map(({ message, as }): ThingEdit => ({
      kind: "report",
      key: String(message),
      about: messageId(message),
      before: { as, state: "waiting" },
      after: { as, state },
    }));
    const name = state === "told" ? "Reported" : "Could not report";
    const about = plural(reports.length, "message");
    const isThere = await writeOutcome(tx, seq, person, edits, { name, about, cause: "report" });
    if (isThere) await tellAll(tx);
    return isThere;
  });

/** A message that has not been on its server for so long will not be there again. */
const LOST_DAYS = 1;

/** Of the lock on reporting: one process at a time does. */
const REPORT_LOCK = 72_246;

interface Row extends DueReport {
  readonly person: PersonId;
  readonly account: number | null;
  readonly kind: string | null;
  readonly messageId: string | null;
}

/**
 * Sees to reports on mail of the simulated service, and of none. An account's server is told in a round with it.
 * @returns how many were told
 */
export const reportDue = async (db: Database, now: Date): Promise<number> =>
  (await underLock(db, REPORT_LOCK, 0, () => tellDue(db, now))) ?? 0;

async function tellDue(db: Database, now: Date): Promise<number> {
  const due = await db.sql<Row[]>`
    select r.person, r.message, r.told_as as "as", a.id as account, a.kind, m.message_id as "messageId"
    from report r join message m on m.person = r.person and m.id = r.message
      left join account a on a.person = r.person and a.id = m.account
    where r.state = 'waiting' and r.at <= ${now.toISOString()}::timestamptz and (a.kind is distinct from 'internet'
      or r.at < ${now.toISOString()}::timestamptz - ${LOST_DAYS} * interval '1 day' and not exists (
        select from placement p where p.person = r.person and p.message = r.message))
    order by r.at limit 500`;
  let count = 0;
  for (const one of due) {
    const { person, account, kind } = one;
    const told =
      kind === "simulated" && account !== null
        ? await noteReports(db, person, [one], "told", (tx) => tellSimulated(tx, person, account, one))
        : void (await noteReports(db, person, [one], "refused"));
    if (told) count++;
  }
  return count;
}
