import { personId } from "@/core/id";
import type { Database } from "../db";
import type { Learner } from "../filing";
import { underLock } from "./lock";

/** First half of the two-part key of the locks on what filing teaches; the second is the person. */
const FILING_LOCK = 72_244;

/**
 * Learns where everybody's mail is filed, as far as that is new. One process at a time does so for a person.
 * @returns how many messages were looked at
 */
export async function learnFilings(
  db: Database,
  learner: Learner,
  now: Date,
  isOver: () => boolean = () => false,
): Promise<number> {
  const people = await db.sql<{ person: number }[]>`select distinct person from filing_due order by person`;
  let count = 0;
  for (const { person } of people)
    count += (await underLock(db, FILING_LOCK, person, () => learner.learn(personId(person), now, isOver))) ?? 0;
  return count;
}
