import { answerTo } from "../../demo/answers";
import { ensureSimulated } from "@/server/gateway";
import { ParsePool, takeMail } from "@/server/jobs";
import { inTurn } from "@/server/run";
import { WORKER, type Fresh } from "./database";

/** The simulated service's world: it writes nothing of its own accord. */
export const QUIET_WORLD = { write: () => new Uint8Array(), answer: answerTo };

/** The simulated mail service of a person, as a test drives it. */
export async function serviceOf({ db, context: { person } }: Fresh) {
  await inTurn(db, person, (tx) => ensureSimulated(tx, person, 0));
  let n = 0;
  const take = () => takeMail(db, () => new ParsePool(WORKER, 1), new Date());
  /**
   * Brings a letter in as the service would.
   * @param headers lines that end in CRLF
   * @returns its id
   */
  async function arrives(
    from: string,
    subject: string,
    headers = "",
    body = "Hello.\r\n",
    date = `Thu, 26 Nov 2026 0${n % 10}:00:00 +0000`,
  ): Promise<number> {
    const raw = `From: ${from}\r\nTo: bookings@larchhuts.example\r\nSubject: ${subject}\r\nDate: ${date}\r\nMessage-ID: <in${++n}@post.example>\r\n${headers}\r\n${body}`;
    await db.sql`insert into simulated_mail (person, account, raw)
      select ${person}, id, ${Buffer.from(raw)} from account where person = ${person}`;
    await take();
    const [row] = await db.sql<{ id: number }[]>`select max(id)::int as id from message where person = ${person}`;
    return row!.id;
  }
  return { take, arrives };
}

/** A date of mail that is so many days old. */
export const daysAgo = (days: number): string =>
  new Date(Date.now() - days * 86_400_000).toUTCString().replace("GMT", "+0000");
