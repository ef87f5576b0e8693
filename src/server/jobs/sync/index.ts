import type { Database } from "../../db";
import {
  GatewayAway,
  Imap,
  NoKey,
  noteTrouble,
  noteWell,
  openingOf,
  Refused,
  serverAccounts,
  type ServerAccount,
} from "../../gateway";
import { tell } from "../../store";
import type { Log } from "../../watch";
import { underLock } from "../lock";
import type { ParsePool } from "../../parse";
import { boxesOf, say, Stopped, type Round } from "./context";
import { fileDrafts, hasDrafts } from "./drafts";
import { matchMailboxes } from "./mailboxes";
import { looksSame, pull } from "./pull";
import { hasDue, pushDue } from "./push";
import { hasReports, tellReports } from "./reports";
import { fileSent } from "./sent";
import { hasComing, takeSources } from "./sources";

/** Keeps the mail of people's accounts here as it is on their servers, and there as it is here. */

/** First half of the two-part key of the locks on accounts; the second is the account. */
const ACCOUNT_LOCK = 72_243;
/** What no server says by itself is looked for so often. */
const POLL_MS = 60_000;

/** A connection that stays, and what it has heard. */
interface Line {
  readonly imap: Imap;
  hasNews: boolean;
  askedAt: number;
  readonly wordless: Set<number>;
  readonly watched: { as: string };
}

/** Asks the server what changed. @returns how many messages were new */
async function look(round: Round): Promise<number> {
  const { sql } = round.db;
  const { person, id } = round.account;
  const [begun] = await sql<{ at: string }[]>`select clock_timestamp()::text as at`;
  const count = await pull(round, await matchMailboxes(round));
  await sql`update account set looked_at = ${begun!.at}::timestamptz where person = ${person} and id = ${id}`;
  return count;
}

/**
 * @param isOver whether the server is to be asked again what changed
 * @param looks whether the server is asked what changed; a cut connection is, before anything else is done
 */
async function doRound(round: Round, looks: boolean, isOver: () => boolean): Promise<number> {
  const { db, account } = round;
  const count = looks ? await look(round) : 0;
  await pushDue(round);
  await fileSent(round);
  await fileDrafts(round);
  await tellReports(round);
  await noteWell(db.sql, account);
  await takeSources(round, isOver);
  await say(round, null);
  const [inbox] = await boxesOf(round);
  const seen = inbox ? await round.imap.watch(inbox.path) : null;
  // What happened between the look at it and now, nobody tells. A server that counts in two ways is asked once more only.
  const as = JSON.stringify(seen);
  if (inbox && seen && !looksSame(inbox, seen) && round.watched.as !== as) round.again();
  if (seen) round.watched.as = as;
  return count;
}

/** The accounts of everybody that this process sees to, each with its connection. */
export class AccountKeeper {
  private readonly lines = new Map<number, Line>();
  private readonly busy = new Set<number>();

  constructor(
    private readonly db: Database,
    private readonly startPool: () => ParsePool,
    private readonly log: Log,
  ) {}

  private async lineTo(account: ServerAccount): Promise<Line> {
    const known = this.lines.get(account.id);
    if (known?.imap.isOpen) return known;
    const line: { -readonly [K in keyof Line]?: Line[K] } = {
      hasNews: true,
      askedAt: 0,
      wordless: new Set(),
      watched: { as: "" },
    };
    line.imap = await Imap.open(account.servers, await openingOf(this.db.sql, account), () => (line.hasNews = true));
    this.lines.set(account.id, line as Line);
    return line as Line;
  }

  /** Whether the server is to be asked what changed. */
  private looks({ id, lookAt }: ServerAccount, now: Date): boolean {
    const line = this.lines.get(id);
    if (!line?.imap.isOpen || line.hasNews || now.getTime() - line.askedAt >= POLL_MS) return true;
    return lookAt !== null && lookAt > line.askedAt;
  }

  private isWanted = async (account: ServerAccount, now: Date): Promise<boolean> =>
    this.looks(account, now) ||
    (await hasDue({ db: this.db, account })) ||
    (await this.hasSent(account)) ||
    (await hasDrafts({ db: this.db, account, now })) ||
    (await hasReports({ db: this.db, account, now })) ||
    (await hasComing({ db: this.db, account, now }));

  private async hasSent({ person, id }: ServerAccount): Promise<boolean> {
    const [row] = await this.db.sql<{ is: boolean }[]>`
      select exists (select from held h where h.person = ${person} and h.account = ${id} and h.state = 'sent'
        and h.at > now() - interval '1 day' and h.at < now() - interval '2 seconds'
        and not exists (select from placement p where p.person = h.person and p.message = h.message)
        and exists (select from message_state s join folder f on f.person = s.person and f.id = s.folder
          where s.person = h.person and s.message = h.message and f.role = 'sent')) as is`;
    return row?.is ?? false;
  }

  /** One round with a server, unless another process is at it. @returns how many messages were new; null where it is */
  async see(account: ServerAccount, now: Date): Promise<number | null> {
    const { person, id } = account;
    let pool: ParsePool | null = null;
    /** A piece is read by all threads: the next one waits for it. */
    const shared =
      <T>(read: (pool: ParsePool, raws: readonly Uint8Array[]) => Promise<readonly T[]>) =>
      async (raws: readonly Uint8Array[]): Promise<readonly T[]> => {
        const threads = (pool ??= this.startPool());
        const share = Math.max(1, Math.ceil(raws.length / threads.size));
        const parts: Promise<readonly T[]>[] = [];
        for (let at = 0; at < raws.length; at += share) parts.push(read(threads, raws.slice(at, at + share)));
        return (await Promise.all(parts)).flat();
      };
    const parse = shared((threads, raws) => threads.parse(raws, now));
    const words = shared((threads, raws) => threads.words(raws, [], now));
    try {
      const looks = this.looks(account, now);
      const line = await this.lineTo(account);
      return await underLock(this.db, ACCOUNT_LOCK, id, async () => {
        if (looks) Object.assign(line, { hasNews: false, askedAt: now.getTime() });
        const { imap, wordless, watched } = line;
        const again = () => void (line.hasNews = true);
        const begun = Date.now();
        const isOver = () => line.hasNews || Date.now() - begun >= POLL_MS;
        const round = { db: this.db, account, imap, parse, words, now, again, wordless, watched };
        return doRound(round, looks, isOver);
      });
    } catch (error) {
      this.drop(id);
      await this.db.sql`update account set doing = null where person = ${person} and id = ${id}`;
      if (error instanceof Stopped) return null;
      if (!(error instanceof GatewayAway || error instanceof Refused || error instanceof NoKey)) throw error;
      await noteTrouble(this.db.sql, account, error.message, now);
      await tell(this.db.sql, person, "accounts");
      return null;
    } finally {
      await (pool as ParsePool | null)?.close();
    }
  }

  /** Sees to every account that has something to be done. */
  async seeToAll(now: Date): Promise<void> {
    const accounts = await serverAccounts(this.db.sql, null, null);
    for (const [id] of this.lines) if (!accounts.some((account) => account.id === id)) this.drop(id);
    const due = await this.due(now);
    for (const account of accounts) {
      if (this.busy.has(account.id) || !due.has(account.id) || !(await this.isWanted(account, now))) continue;
      this.busy.add(account.id);
      void this.see(account, now)
        .then((count) => count && this.log.info("took in mail of an account", { messages: count, account: account.id }))
        .catch((error: unknown) => this.log.fault("an account stopped", error, {}, { account: account.id }))
        .finally(() => this.busy.delete(account.id));
    }
  }

  private async due(now: Date): Promise<Set<number>> {
    const rows = await this.db.sql<{ id: number }[]>`
      select id from account where kind = 'internet' and retry_at <= ${now.toISOString()}`;
    return new Set(rows.map(({ id }) => id));
  }

  private drop(id: number): void {
    const line = this.lines.get(id);
    this.lines.delete(id);
    void line?.imap.close();
  }

  async close(): Promise<void> {
    const lines = [...this.lines.values()];
    this.lines.clear();
    await Promise.all(lines.map(({ imap }) => imap.close()));
  }
}
