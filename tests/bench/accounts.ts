import { Log } from "@/server/watch";
import { randomBytes, randomUUID } from "node:crypto";
import { runMacro, type Context } from "@/server/act";
import { runId } from "@/core/id";
import { AccountKeeper, ParsePool } from "@/server/jobs";
import { generate } from "../../demo/generate";
import type { BareImap } from "../fixtures/bare-imap";
import { startMailService } from "../fixtures/mail-service";
import { median, say, timed, type Figure } from "./figures";
import { farFigures, fetchAll, firstFigures, firstTime, seeing } from "./first-time";

/** A mail server on loopback, against a client that does the same there and keeps nothing; and one as far as most are. */

const USER = "bench";
const MESSAGES = 10_000;
const FAR_USER = "far";
const FAR_MESSAGES = 1500;
/** With it they are about as large as mail is on average, most of which are files and pictures. */
const FAR_BYTES = 40_000;
const FLAGGED = 15;

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
  const far = await farFigures(context, service, { user: FAR_USER, messages: FAR_MESSAGES, bytes: FAR_BYTES }, seeTo);
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
