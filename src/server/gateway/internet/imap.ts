import { ImapFlow, type FetchMessageObject, type ImapFlowOptions, type SearchObject } from "imapflow";
import type { Servers } from "@/core/api";
import { HEAD_FIELDS } from "@/core/mail";
import type { Role } from "@/core/place";
import { GatewayAway } from "../gateway";
import { saidOf, wordsOf } from "./said";

/** A connection with an IMAP server (RFC 9051, and RFC 3501 with what it offers beside), in the app's own words. */

const CONNECT_MS = 20_000;
/** A server that says nothing for so long is taken for gone. */
const SILENT_MS = 90_000;
/** A server that does not say goodbye is not waited for. */
const LEAVE_MS = 1000;
/** IDLE is begun anew before a server or something between may end it (RFC 2177 asks for 29 minutes at the most). */
const IDLE_MS = 9 * 60_000;

export const isLoopback = (host: string): boolean => /^(localhost|127\.\d+\.\d+\.\d+|::1)$/i.test(host);

export interface RemoteMailbox {
  readonly path: string;
  /** As the person's places are named: segments joined by "/", without a prefix all of them have. */
  readonly place: string;
  readonly role: Role | null;
}

/** How far a mailbox is. */
export interface MailboxState {
  /** UIDs mean what they meant while this is the same (RFC 9051, section 2.3.1.1). */
  readonly validity: number;
  readonly nextUid: number;
  /** 0 where the server counts no changes (RFC 7162). */
  readonly modseq: number;
  readonly messages: number;
}

export interface RemoteFlags {
  readonly uid: number;
  readonly flags: readonly string[];
}
/** What tells a message from others, without its source. */
export interface RemoteHead extends RemoteFlags {
  /** With its brackets. */
  readonly messageId: string | null;
  /** Bytes. */
  readonly size: number;
}
export interface RemoteMessage extends RemoteFlags {
  readonly raw: Uint8Array;
}

/** The server does not do it, and said why. */
export class Refused extends Error {
  override readonly name = "Refused";
}

const ROLES: Record<string, Role> = {
  "\\Inbox": "inbox",
  "\\Archive": "archive",
  "\\Trash": "trash",
  "\\Junk": "junk",
  "\\Sent": "sent",
  "\\Drafts": "drafts",
};
/** Mailboxes that show what lies in others: their messages are here already. */
const VIEWS = new Set(["\\All", "\\Flagged", "\\Important"]);

/** UIDs as a set of a command: neighbours are one range. */
export function setOf(uids: readonly number[]): string {
  const parts: string[] = [];
  const sorted = [...uids].sort((a, b) => a - b);
  for (let i = 0; i < sorted.length;) {
    let end = i;
    while (sorted[end + 1] === sorted[end]! + 1) end++;
    parts.push(end === i ? String(sorted[i]) : `${sorted[i]}:${sorted[end]}`);
    i = end + 1;
  }
  return parts.join(",");
}

function optionsOf({ imap, user, method }: Servers, secret: string): ImapFlowOptions {
  return {
    host: imap.host,
    port: imap.port,
    secure: imap.security === "tls",
    // Without TLS a password goes to this machine's own address only.
    ...(imap.security === "tls" ? {} : { doSTARTTLS: imap.security === "starttls" || !isLoopback(imap.host) }),
    auth: method !== "password" ? { user, accessToken: secret } : { user, pass: secret },
    clientInfo: { name: "Tachyne" },
    // With one, each answer is written out for it, messages too.
    logger: false,
    qresync: true,
    disableAutoIdle: true,
    maxIdleTime: IDLE_MS,
    connectionTimeout: CONNECT_MS,
    greetingTimeout: CONNECT_MS,
    socketTimeout: SILENT_MS,
  };
}

type StatusQuery = Parameters<ImapFlow["status"]>[1];

interface Status {
  readonly uidValidity?: bigint;
  readonly uidNext?: number;
  readonly highestModseq?: bigint;
  readonly messages?: number;
}

const stateOf = ({ uidValidity, uidNext, highestModseq, messages }: Status): MailboxState => ({
  validity: Number(uidValidity ?? 0),
  nextUid: uidNext ?? 0,
  modseq: Number(highestModseq ?? 0),
  messages: messages ?? 0,
});

const flagsOf = ({ flags }: FetchMessageObject): string[] => [...(flags ?? [])];
const MESSAGE_ID = /^message-id:\s*(<[^>\r\n]*>)/im;

/** Headers that say no date have that of the message's coming to the server. */
const withDate = (headers: string, came: Date | string | undefined): string =>
  came === undefined || /^date:/im.test(headers) ? headers : `Date: ${new Date(came).toUTCString()}\r\n${headers}`;

export class Imap {
  private isWatching = false;
  /** UIDs the server says have gone since a mark, while it is asked for them. */
  private vanished: number[] = [];
  private constructor(
    private readonly client: ImapFlow,
    private readonly servers: Servers,
  ) {}

  /** @throws GatewayAway in the server's words */
  static async open(servers: Servers, secret: string, onNews: () => void = () => {}): Promise<Imap> {
    const client = new ImapFlow(optionsOf(servers, secret));
    // What breaks the connection is met by whatever is asked next.
    client.on("error", () => {});
    for (const event of ["exists", "flags", "close"] as const) client.on(event, onNews);
    const imap = new Imap(client, servers);
    client.on("expunge", ({ uid, earlier }) => {
      if (earlier && uid !== undefined) imap.vanished.push(uid);
      else onNews();
    });
    try {
      await client.connect();
    } catch (error) {
      client.close();
      throw new GatewayAway(saidOf(error, "IMAP", servers.imap), { cause: error });
    }
    return imap;
  }

  get isOpen(): boolean {
    return this.client.usable;
  }

  /** Takes leave, of a server that answers. */
  async close(): Promise<void> {
    const left = new Promise<void>((done) => setTimeout(done, LEAVE_MS).unref());
    if (this.client.usable) await Promise.race([this.client.logout().catch(() => undefined), left]);
    this.client.close();
  }

  /** A command that fails while the connection stands is refused; else nobody knows what came of it. */
  private async ask<T>(work: () => Promise<T>): Promise<T> {
    try {
      const done = await work();
      // A line that breaks in the middle of an answer ends some of them as if they were whole.
      if (!this.client.usable) throw new Error("connection closed");
      return done;
    } catch (error) {
      const { responseStatus } = error as { responseStatus?: string };
      if (this.client.usable && (responseStatus === "NO" || responseStatus === "BAD"))
        throw new Refused(wordsOf(error));
      throw new GatewayAway(saidOf(error, "IMAP", this.servers.imap), { cause: error });
    }
  }

  /** The same where the library says "false" for a command that was refused. */
  private async must<T>(work: () => Promise<T | false | undefined>, why: string): Promise<T> {
    const done = await this.ask(work);
    if (done === false || done === undefined) throw new Refused(why);
    return done;
  }

  private search = (query: SearchObject): Promise<number[]> =>
    this.must(() => this.client.search(query, { uid: true }), "The server does not search.");

  mailboxes = (): Promise<RemoteMailbox[]> => this.listed(undefined);

  /** The same with how far each is: in one command, where the server knows that (LIST-STATUS, RFC 5819). */
  async mailboxStates(): Promise<(RemoteMailbox & { readonly state: MailboxState | null })[]> {
    // Of a mailbox that is open, a server says what it said last: it is asked to look again.
    await this.ask(() => this.client.noop());
    return this.listed(this.counted());
  }

  private async listed(statusQuery: StatusQuery | undefined) {
    const all = await this.ask(() => this.client.list(statusQuery && { statusQuery }));
    return all
      .filter(
        ({ flags, specialUse }) =>
          !flags.has("\\Noselect") && !flags.has("\\NonExistent") && !VIEWS.has(specialUse ?? ""),
      )
      .map(({ path, delimiter, specialUse, status }) => {
        const segments = delimiter ? path.split(delimiter) : [path];
        const below = segments.length > 1 && segments[0]!.toUpperCase() === "INBOX" ? segments.slice(1) : segments;
        return {
          path,
          place: below.join("/"),
          role: path.toUpperCase() === "INBOX" ? ("inbox" as const) : (ROLES[specialUse ?? ""] ?? null),
          state: status?.uidValidity === undefined ? null : stateOf(status),
        };
      });
  }

  /** The path on the server that a mailbox for a place has. */
  pathOf(place: string): string {
    const { prefix, delimiter } = this.client.namespace || { prefix: "", delimiter: "/" };
    return `${prefix}${place.split("/").join(delimiter || "/")}`;
  }

  /** @returns the path on the server of a new mailbox for a place */
  create = async (place: string): Promise<string> =>
    (await this.ask(() => this.client.mailboxCreate(this.pathOf(place)))).path;

  private counted = (): StatusQuery => ({
    messages: true,
    uidNext: true,
    uidValidity: true,
    highestModseq: this.client.capabilities.has("CONDSTORE"),
  });

  async state(path: string): Promise<MailboxState> {
    const status = () => this.client.status(path, this.counted());
    return stateOf(await this.must(status, `There is no mailbox ${path} any more.`));
  }

  /** Opens a mailbox for what follows. @returns whether it keeps keywords of any name */
  async select(path: string): Promise<boolean> {
    const box = await this.ask(() => this.client.mailboxOpen(path));
    return box.permanentFlags?.has("\\*") ?? true;
  }

  /** UIDs of the open mailbox, ascending. @param since by the day it came there */
  async uids(since: Date | null): Promise<number[]> {
    return (await this.search(since ? { since } : { all: true })).sort((a, b) => a - b);
  }

  /** @param modseq only what changed since; 0 for all */
  async flags(set: string, modseq: number): Promise<RemoteFlags[]> {
    const options = modseq > 0 ? { uid: true, changedSince: BigInt(modseq) } : { uid: true };
    const rows = await this.ask(() => this.client.fetchAll(set, { uid: true, flags: true }, options));
    return rows.map((row) => ({ uid: row.uid, flags: flagsOf(row) }));
  }

  /**
   * What changed in the open mailbox since a mark.
   * @returns with the UIDs that have gone since, null where the server does not tell them (QRESYNC, RFC 7162)
   */
  async changes(modseq: number): Promise<{ readonly flags: RemoteFlags[]; readonly gone: readonly number[] | null }> {
    this.vanished = [];
    const flags = await this.flags("1:*", modseq);
    return { flags, gone: modseq > 0 && this.client.enabled.has("QRESYNC") ? this.vanished : null };
  }

  private async headsWith(uids: readonly number[], headers: string[]) {
    const query = { uid: true, flags: true, size: true, internalDate: true, headers };
    const rows = await this.ask(() => this.client.fetchAll(setOf(uids), query, { uid: true }));
    return rows.map((row) => {
      const text = row.headers?.toString("latin1") ?? "";
      return {
        uid: row.uid,
        flags: flagsOf(row),
        size: row.size ?? 0,
        messageId: MESSAGE_ID.exec(text)?.[1] ?? null,
        raw: Buffer.from(withDate(text, row.internalDate), "latin1"),
      };
    });
  }

  heads = (uids: readonly number[]): Promise<RemoteHead[]> => this.headsWith(uids, ["message-id"]);

  /** The same, each with the headers that are read of it as its "raw". */
  headers = (uids: readonly number[]): Promise<(RemoteHead & RemoteMessage)[]> =>
    this.headsWith(uids, [...HEAD_FIELDS]);

  async messages(uids: readonly number[]): Promise<RemoteMessage[]> {
    const rows = await this.ask(() =>
      this.client.fetchAll(setOf(uids), { uid: true, flags: true, source: true }, { uid: true }),
    );
    return rows.flatMap((row) => (row.source ? [{ uid: row.uid, flags: flagsOf(row), raw: row.source }] : []));
  }

  /** @throws Refused where the server does it for none of them */
  async store(uids: readonly number[], add: readonly string[], remove: readonly string[]): Promise<void> {
    const set = setOf(uids);
    const options = { uid: true, silent: true };
    const why = (flags: readonly string[]) => `The server does not change ${flags.join(", ")}.`;
    if (add.length > 0) await this.must(() => this.client.messageFlagsAdd(set, [...add], options), why(add));
    if (remove.length > 0)
      await this.must(() => this.client.messageFlagsRemove(set, [...remove], options), why(remove));
  }

  /** @returns those of some UIDs that the open mailbox has */
  async existing(uids: readonly number[]): Promise<Set<number>> {
    return new Set(await this.search({ uid: setOf(uids) }));
  }

  /**
   * Moves messages. A server says "done" of what it did not do, and "no" of what it did: what it names has moved.
   * One that names none (no UIDPLUS, RFC 4315) has moved what is there no more.
   * @returns for those that moved, their new UIDs, null where the server does not say; and those that are still there
   */
  async move(
    uids: readonly number[],
    path: string,
  ): Promise<{ readonly moved: ReadonlyMap<number, number | null>; readonly left: ReadonlySet<number> }> {
    const done = await this.ask(() => this.client.messageMove(setOf(uids), path, { uid: true }));
    const moved = new Map<number, number | null>(done ? done.uidMap : undefined);
    const unsaid = uids.filter((uid) => !moved.has(uid));
    if (unsaid.length === 0) return { moved, left: new Set() };
    const left = await this.existing(unsaid);
    if (!this.client.capabilities.has("UIDPLUS")) for (const uid of unsaid) if (!left.has(uid)) moved.set(uid, null);
    return { moved, left };
  }

  /** Ends messages for good. */
  async remove(uids: readonly number[]): Promise<void> {
    await this.must(() => this.client.messageDelete(setOf(uids), { uid: true }), "The server does not delete.");
  }

  /** @returns its UID, null where the server does not say */
  async append(path: string, raw: Uint8Array, flags: readonly string[], date: Date): Promise<number | null> {
    const taken = () => this.client.append(path, Buffer.from(raw), [...flags], date);
    const made = await this.must(taken, `The server takes no message into ${path}.`);
    return made.uid ?? null;
  }

  /** @param id a Message-ID with its brackets @returns UIDs in the open mailbox */
  withMessageId = (id: string): Promise<number[]> => this.search({ header: { "message-id": id } });

  /**
   * Lets the server say by itself when something of a mailbox changes, until the next command.
   * @returns how the mailbox is from where on it is watched; null where it was being watched already
   */
  async watch(path: string): Promise<MailboxState | null> {
    if (this.isWatching) return null;
    this.isWatching = true;
    const box = await this.ask(() => this.client.mailboxOpen(path));
    // It ends with the next command, or with the connection.
    void this.client
      .idle()
      .catch(() => undefined)
      .finally(() => (this.isWatching = false));
    return stateOf({ ...box, messages: box.exists });
  }
}
