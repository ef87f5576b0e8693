import { randomBytes, randomUUID } from "node:crypto";
import { createAccount, runMacro } from "@/server/act";
import { runId } from "@/core/id";
import type { Step } from "@/core/macro";
import { AccountKeeper, ParsePool } from "@/server/jobs";
import { serverAccounts } from "@/server/gateway";
import { Log } from "@/server/watch";
import type { BareImap } from "../fixtures/bare-imap";
import { PASSWORD, letter, type MailService } from "../fixtures/mail-service";
import { freshDatabase, WORKER, type Fresh } from "./database";

/** A mailbox with two programs on it: the app, and a client that knows nothing of it. */

export interface Here {
  readonly id: number;
  readonly messageId: string;
  readonly path: string;
  /** 1: read, 8: flagged. */
  readonly bits: number;
  readonly labels: readonly string[];
  /** The place it has on the server; null for none. */
  readonly uid: number | null;
}

const MINUTE = 60_000;

export class Sides {
  private clock = Date.now();
  private constructor(
    readonly fresh: Fresh,
    readonly service: MailService,
    readonly user: string,
    public bare: BareImap,
    private keeper: AccountKeeper,
  ) {}

  static async open(service: MailService, user: string): Promise<Sides> {
    process.env.TACHYNE_KEY ??= randomBytes(32).toString("base64");
    const fresh = await freshDatabase();
    return new Sides(fresh, service, user, await service.bare(user), Sides.keeperOf(fresh));
  }

  private static keeperOf = ({ db }: Fresh): AccountKeeper =>
    new AccountKeeper(db, () => new ParsePool(WORKER, 1), new Log(() => {}));

  connect = (more: { readonly since?: string; readonly without?: string[] } = {}) =>
    createAccount(this.fresh.context, {
      name: "",
      address: "desk@huts.example",
      servers: this.service.servers(this.user),
      secret: PASSWORD,
      since: more.since ?? null,
      without: more.without ?? [],
    });

  /** One round in which the server is asked. @returns how many messages were new; null where it did not go through */
  async see(): Promise<number | null> {
    const [account] = await serverAccounts(this.fresh.db.sql, this.fresh.context.person, null);
    return this.keeper.see(account!, new Date((this.clock += 2 * MINUTE)));
  }

  /** The job process as it runs, while the minute does not pass in which a server is asked for nothing. */
  async live(isSo: () => Promise<boolean>): Promise<void> {
    const end = Date.now() + 30_000;
    while (!(await isSo())) {
      if (Date.now() > end) throw new Error("it did not come to be so");
      await this.keeper.seeToAll(new Date(this.clock));
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
  }

  /** Another job process goes on, as after a kill: nothing of the first one's memory is left. */
  async another(): Promise<void> {
    void this.keeper.close();
    this.keeper = Sides.keeperOf(this.fresh);
  }

  /** Rounds until nothing more happens. */
  async settle(): Promise<void> {
    for (let n = 0; n < 4; n++) await this.see();
  }

  here = (): Promise<Here[]> =>
    this.fresh.db.sql<Here[]>`
      select m.id, m.message_id as "messageId", f.path, s.bits & 9 as bits, p.uid,
        array(select l.name from label l where l.person = s.person and l.id = any(s.labels) order by 1) as labels
      from message m join message_state s on s.person = m.person and s.message = m.id
        join folder f on f.person = s.person and f.id = s.folder
        left join placement p on p.person = m.person and p.message = m.id
      order by m.message_id, m.id`;

  async byId(n: number): Promise<Here> {
    return (await this.here()).find(({ messageId }) => messageId === `<m${n}@post.example>`)!;
  }

  run = (ids: readonly number[], ...steps: Step[]) =>
    runMacro(this.fresh.context, {
      id: runId(randomUUID()),
      macro: { name: "Test", steps },
      target: { ids: [...ids] },
      answers: {},
      at: new Date().toISOString(),
    });

  /** What is in a mailbox of the server: "<m1@post.example> \Seen". */
  async there(mailbox: string): Promise<string[]> {
    return (await this.bare.list(mailbox)).map(({ messageId, flags }) => [messageId, ...flags].join(" "));
  }

  async fill(count: number, mailbox = "INBOX", from = 1): Promise<void> {
    for (let n = from; n < from + count; n++) await this.bare.append(mailbox, letter(n));
  }

  /** Commands since the last time that change something on the server. */
  changing(): string[] {
    return this.service.wire.commands.splice(0).filter((command) => /STORE|MOVE|COPY|EXPUNGE|APPEND/.test(command));
  }

  async end(): Promise<void> {
    this.bare.close();
    await this.keeper.close();
    Object.assign(this.service.wire, {
      cutAt: null,
      cutAfter: null,
      refuse: () => null,
      translate: (said: string) => said,
      change: (said: string) => said,
    });
    this.service.wire.commands.length = 0;
    await this.fresh.drop();
  }
}
