import type { Report } from "@/core/change";
import type { PersonId } from "@/core/id";
import type { Transaction } from "../db";

/** Keywords by which a server is told what a message is (registered with IANA; RFC 5788). */
export const REPORT_KEYWORD: Record<Report["as"], string> = { junk: "$Junk", deceit: "$Phishing" };

/** Tells the simulated service about a message. It is in the same database, so that it is told once. */
export const tellSimulated = (
  tx: Transaction,
  person: PersonId,
  account: number,
  { messageId, as }: { readonly messageId: string | null; readonly as: Report["as"] },
) => tx`
  insert into simulated_report (person, account, message_id, told_as) values (${person}, ${account}, ${messageId}, ${as})`;
