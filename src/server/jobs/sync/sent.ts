import { messageId, type MessageId } from "@/core/id";
import { flagsSeen, NO_WORDS } from "@/core/sync";
import { folderFor } from "@/core/place";
import { inTurn } from "../../run";
import { boxesOf, claim, directoryOf, noteDue, place, select, type Round } from "./context";
import { mailboxFor } from "./mailboxes";

/** Letters that went are in the server's Sent too, each once: some servers put them there by themselves. */

/** A server that files what it was given has done so by then. */
const FILED_AFTER_MS = 2000;
const AT_ONCE = 50;

interface Went {
  readonly message: MessageId;
  readonly messageId: string | null;
  readonly raw: Uint8Array;
  readonly ms: number;
}

const readWent = ({ db, account, now }: Round, folder: number): Promise<Went[]> =>
  db.sql<Went[]>`
    select m.id as message, m.message_id as "messageId", c.raw, (extract(epoch from h.at) * 1000)::float8 as ms
    from held h join message m on m.person = h.person and m.id = h.message
      join message_state s on s.person = m.person and s.message = m.id
      join content c on c.person = m.person and c.id = m.content
    where h.person = ${account.person} and h.account = ${account.id} and h.state = 'sent' and s.folder = ${folder}
      and h.at < ${new Date(now.getTime() - FILED_AFTER_MS).toISOString()}::timestamptz
      and not exists (select from placement p where p.person = m.person and p.message = m.id)
    order by m.id limit ${AT_ONCE}`;

/** Puts copies of what was sent into the server's Sent. @returns how many */
export async function fileSent(round: Round): Promise<number> {
  const directory = await directoryOf(round);
  const sent = folderFor(directory, "sent");
  const went = sent ? await readWent(round, sent.id) : [];
  if (went.length === 0) return 0;
  const box = await mailboxFor(round, sent!.id, directory, await boxesOf(round));
  if (!box) return 0;
  await select(round, box);
  for (const { message, messageId: id, raw, ms } of went) {
    // What the server filed by itself, or before this process was killed, is that copy.
    const [there] = id === null ? [] : await round.imap.withMessageId(id);
    const uid = there ?? (await round.imap.append(box.path, raw, ["\\Seen"], new Date(ms)));
    const base = {
      ...flagsSeen(["\\Seen"], NO_WORDS),
      message: messageId(message),
      mailbox: box.id,
      folder: box.folder,
      uid,
    };
    await inTurn(round.db, round.account.person, async (tx, seq) => {
      await place(tx, round, [base]);
      await claim(tx, round, seq, [base.message]);
      await noteDue(tx, round, [base.message]);
    });
  }
  return went.length;
}
