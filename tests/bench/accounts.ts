import { Log } from "@/server/watch";
import { randomBytes, randomUUID } from "node:crypto";
import { createAccount, runMacro, type Context } from "@/server/act";
import { runId } from "@/core/id";
import { Imap, serverAccounts } from "@/server/gateway";
import { AccountKeeper, ParsePool } from "@/server/jobs";
import { generate } from "../../demo/generate";
import type { BareImap } from "../fixtures/bare-imap";
import { PASSWORD, startMailService, type MailService } from "../fixtures/mail-service";
import { median, say, timed, type Figure } from "./figures";
import { SLOW, slowLine } from "./slow-line";

/** A mail server on loopback, against a client that does the same there and keeps nothing; and one as far as most are. */

const USER = "bench";
const MESSAGES = 10_000;
const FAR_USER = "far";
const FAR_MESSAGES = 1500;
/** Of what the line brings, so much is to be here. */
const FAR_SHARE = 0.8;
/** With it they are about as large as mail is on average, most of which are files and pictures. */
const FAR_BYTES = 40_000;
const HEADS = 1000;
const PIECE = 500;
const MINUTE = 60_000;
const FLAGGED = 15;

type To = Parameters<typeof Imap.open>[0];

/**
 * The same parts, over the same library, thrown away.
 * @returns how long the headers took, and all of it, milliseconds
 */
async function fetchAll(servers: To): Promise<Taken> {
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
function seeing({ db, person }: Context, keeper: AccountKeeper): (account: number) => Promise<unknown> {
  let clock = Date.now();
  return async (account) => {
    const [one] = await serverAccounts(db.sql, person, account);
    await keeper.see(one!, new Date((clock += 2 * MINUTE)));
  };
}

/** What an account takes to have all headers here, and all sources. */
async function firstTime(
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
const firstFigures = (what: string, first: Taken, floor: Taken, budget: number | null): Figure[] => [
  {
    what: `${what}: by their headers`,
    ms: first.headsMs,
    floor: "fetching these",
    floorMs: floor.headsMs,
    budget: null,
  },
  { what: `${what}: whole`, ms: first.allMs, floor: "fetching the same parts", floorMs: floor.allMs, budget },
];

/** A first time over a line that is slower than both machines. */
async function farFigures(
  context: Context,
  service: MailService,
  see: (account: number) => Promise<unknown>,
): Promise<Figure[]> {
  say(`a mail server behind ${SLOW}`);
  const bare = await service.bare(FAR_USER);
  for (const { raw } of generate({ messages: FAR_MESSAGES, seed: 10, now: new Date() })) {
    const filling = randomBytes(FAR_BYTES / 2)
      .toString("hex")
      .replace(/.{76}/g, "$&\r\n");
    await bare.append("INBOX", `${Buffer.from(raw).toString("latin1")}\r\n${filling}`);
  }
  bare.close();
  const line = await slowLine(service.imap.port);
  const given = service.servers(FAR_USER);
  const servers = { ...given, imap: { ...given.imap, port: line.port } };
  const floor = await fetchAll(servers);
  const first = await firstTime(context, servers, `${FAR_USER}@post.example`, FAR_MESSAGES, see);
  line.end();
  return firstFigures(`${FAR_MESSAGES.toLocaleString("en")} messages over ${SLOW}`, first, floor, 1 / FAR_SHARE);
}

/** From a flag that another program sets until it is here, over IDLE. */
async function flagsSeen({ db, person }: Context, keeper: AccountKeeper, bare: BareImap): Promise<number> {
  const times: number[] = [];
  await bare.select("INBOX");
  for (let n = 1; n <= FLAGGED; n++)
    times.push(
      await timed(async () => {
        await bare.run(`STORE ${n} +FLAGS (\\Flagged)`);
        for (let seen = false; !seen;) {
          await keeper.seeToAll(new Date());
          await new Promise((resolve) => setTimeout(resolve, 5));
          const [row] = await db.sql<{ count: number }[]>`
            select count(*)::int as count from message_state where person = ${person} and bits & 8 <> 0 and folder in (
              select id from folder where person = ${person} and role = 'inbox')`;
          seen = row!.count >= n;
        }
      }),
    );
  return median(times);
}

/** @param context of a mailbox with nothing else in it */
export async function accountFigures(context: Context, worker: string, threads: number): Promise<Figure[]> {
  say(`a mail server with ${MESSAGES.toLocaleString("en")} messages`);
  process.env.TACHYNE_KEY ??= randomBytes(32).toString("base64");
  const { db, person } = context;
  const service = await startMailService([USER, FAR_USER]);
  const bare = await service.bare(USER);
  for (const { raw } of generate({ messages: MESSAGES, seed: 8, now: new Date() }))
    await bare.append("INBOX", Buffer.from(raw).toString("latin1"));
  const servers = { ...service.servers(USER), imap: { ...service.servers(USER).imap, port: service.imap.port } };
  await fetchAll(servers);
  const floor = await fetchAll(servers);
  const keeper = new AccountKeeper(db, () => new ParsePool(worker, threads), new Log(() => {}));
  const seeTo = seeing(context, keeper);
  const first = await firstTime(context, servers, `${USER}@post.example`, MESSAGES, seeTo);
  const see = () => seeTo(first.account);

  say("10,000 moves, and what another program does");
  const run = {
    macro: { name: "Archive", steps: [{ do: "archive" as const }] },
    answers: {},
    at: new Date().toISOString(),
  };
  const folder = (role: string) => `select id from folder where person = ${person} and role = '${role}'`;
  const inbox = await db.sql<{ id: number }[]>`
    select message as id from message_state where person = ${person} and folder = (${db.sql.unsafe(folder("inbox"))})`;
  await runMacro(context, { id: runId(randomUUID()), target: { ids: inbox.map(({ id }) => id) }, ...run });
  const movesMs = await timed(see);
  await bare.select("Archive");
  const bareMs = await timed(() => bare.run('UID MOVE 1:* "Junk"'));
  for (const { raw } of generate({ messages: FLAGGED, seed: 9, now: new Date() }))
    await bare.append("INBOX", Buffer.from(raw).toString("latin1"));
  await see();
  const seenMs = await flagsSeen(context, keeper, bare);
  const far = await farFigures(context, service, seeTo);
  await keeper.close();
  bare.close();
  await service.end();
  const many = MESSAGES.toLocaleString("en");
  return [
    ...firstFigures(`${many} messages of a server`, first, floor, null),
    ...far,
    {
      what: `${many} moves until the server has them`,
      ms: movesMs,
      floor: "the same by a bare client",
      floorMs: bareMs,
      budget: null,
    },
    { what: "a flag on the server until it is here", ms: seenMs, floor: "two seconds", floorMs: 2000, budget: 1 },
  ];
}
