import type { Report } from "@/core/change";
import { Refused, REPORT_KEYWORD } from "../../gateway";
import { noteReports } from "../report";
import { select, type Round } from "./context";

/** Tells an account's server what messages are, by the keywords that are registered for it. */

interface Due {
  readonly message: number;
  readonly as: Report["as"];
  readonly mailbox: number;
  readonly path: string;
  readonly uid: number;
}

type Asked = Pick<Round, "db" | "account" | "now">;

const readDue = ({ db, account, now }: Asked, most: number): Promise<Due[]> =>
  db.sql<Due[]>`
    select r.message, r.told_as as "as", p.mailbox, b.path, p.uid
    from report r join placement p on p.person = r.person and p.message = r.message
      join mailbox b on b.person = p.person and b.id = p.mailbox
    where r.person = ${account.person} and p.account = ${account.id} and p.uid is not null
      and r.state = 'waiting' and r.at <= ${now.toISOString()}::timestamptz order by r.at limit ${most}`;

export const hasReports = async (asked: Asked): Promise<boolean> => (await readDue(asked, 1)).length > 0;

const AT_ONCE = 500;

/** Whether the server keeps what it is told: one that does not is told nothing more, and goes on being worked with. */
async function keeps({ imap }: Round, some: readonly Due[]): Promise<boolean> {
  try {
    await imap.store(
      some.map(({ uid }) => uid),
      [REPORT_KEYWORD[some[0]!.as]],
      [],
    );
    return true;
  } catch (error) {
    if (error instanceof Refused) return false;
    throw error;
  }
}

/** @returns how many messages it was told of */
export async function tellReports(round: Round): Promise<number> {
  const due = await readDue(round, AT_ONCE);
  const groups = new Map<string, Due[]>();
  for (const one of due) {
    const key = `${one.mailbox} ${one.as}`;
    groups.set(key, [...(groups.get(key) ?? []), one]);
  }
  for (const some of groups.values()) {
    const { mailbox, path } = some[0]!;
    await select(round, { id: mailbox, path });
    const isTold = !round.wordless.has(mailbox) && (await keeps(round, some));
    await noteReports(round.db, round.account.person, some, isTold ? "told" : "refused");
  }
  return due.length;
}
