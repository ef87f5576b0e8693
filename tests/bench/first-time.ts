import { randomBytes } from "node:crypto";
import { createAccount, type Context } from "@/server/act";
import { Imap, serverAccounts } from "@/server/gateway";
import type { AccountKeeper } from "@/server/jobs";
import { generate } from "../../demo/generate";
import { PASSWORD, type MailService } from "../fixtures/mail-service";
import { say, type Figure } from "./figures";
import { SLOW, slowLine } from "./slow-line";

/** All of an account for the first time, against a client that fetches the same parts and keeps nothing. */

/** Of what the line brings, so much is to be here. */
const FAR_SHARE = 0.8;
const HEADS = 1000;
const PIECE = 500;
const MINUTE = 60_000;

type To = Parameters<typeof Imap.open>[0];

/**
 * The same parts, over the same library, thrown away.
 * @returns how long the headers took, and all of it, milliseconds
 */
export async function fetchAll(servers: To): Promise<Taken> {
  const line = await Imap.open(servers, PASSWORD);
  const begun = performance.now();
  await line.select("INBOX");
  const uids = await line.uids(null);
  for (let at = 0; at < uids.length; at += HEADS) await line.headers(uids.slice(at, at + HEADS));
  const headsMs = performance.now() - begun;
  for (let at = 0; at < uids.length; at += PIECE) await line.messages(uids.slice(at, at + PIECE));
  const allMs = performance.now() - begun;
  await line.close();
  return { headsMs, allMs };
}

interface Taken {
  readonly headsMs: number;
  readonly allMs: number;
}

/** Sees to an account; its clock goes on by more than a minute each time. */
export function seeing({ db, person }: Context, keeper: AccountKeeper): (account: number) => Promise<unknown> {
  let clock = Date.now();
  return async (account) => {
    const [one] = await serverAccounts(db.sql, person, account);
    await keeper.see(one!, new Date((clock += 2 * MINUTE)));
  };
}

/** What an account takes to have all headers here, and all sources. */
export async function firstTime(
  context: Context,
  servers: To,
  address: string,
  count: number,
  see: (account: number) => Promise<unknown>,
): Promise<Taken & { readonly account: number }> {
  const { db, person } = context;
  const { id } = await createAccount(context, {
    name: "",
    address,
    servers,
    secret: PASSWORD,
    since: null,
    without: [],
  });
  const begun = performance.now();
  const seen = see(id);
  let headsMs = 0;
  while (headsMs === 0) {
    await new Promise((resolve) => setTimeout(resolve, 20));
    const [row] = await db.sql<{ count: number }[]>`
      select count(*)::int as count from placement where person = ${person} and account = ${id}`;
    if (row!.count >= count) headsMs = performance.now() - begun;
  }
  await seen;
  // A round gives way to others after a minute.
  for (;;) {
    const [left] = await db.sql<
      { count: number }[]
    >`select count(*)::int as count from coming where person = ${person}`;
    if (left!.count === 0) break;
    await see(id);
  }
  return { account: id, headsMs, allMs: performance.now() - begun };
}

/** @param budget of the whole; the headers are there to be worked with, and have none */
export const firstFigures = (what: string, first: Taken, floor: Taken, budget: number | null): Figure[] => [
  {
    what: `${what}: by their headers`,
    ms: first.headsMs,
    floor: "fetching these",
    floorMs: floor.headsMs,
    budget: null,
  },
  { what: `${what}: whole`, ms: first.allMs, floor: "fetching the same parts", floorMs: floor.allMs, budget },
];

/** A mailbox far away. */
export interface Far {
  readonly user: string;
  readonly messages: number;
  /** What each message has beside what the demo world's have, as files and pictures would be. */
  readonly bytes: number;
}

/** A first time over a line that is slower than both machines. */
export async function farFigures(
  context: Context,
  service: MailService,
  { user, messages, bytes }: Far,
  see: (account: number) => Promise<unknown>,
): Promise<Figure[]> {
  say(`a mail server behind ${SLOW}`);
  const bare = await service.bare(user);
  for (const { raw } of generate({ messages, seed: 10, now: new Date() })) {
    const filling = randomBytes(bytes / 2)
      .toString("hex")
      .replace(/.{76}/g, "$&\r\n");
    await bare.append("INBOX", `${Buffer.from(raw).toString("latin1")}\r\n${filling}`);
  }
  bare.close();
  const line = await slowLine(service.imap.port);
  const given = service.servers(user);
  const servers = { ...given, imap: { ...given.imap, port: line.port } };
  const floor = await fetchAll(servers);
  const first = await firstTime(context, servers, `${user}@post.example`, messages, see);
  line.end();
  return firstFigures(`${messages.toLocaleString("en")} messages over ${SLOW}`, first, floor, 1 / FAR_SHARE);
}
