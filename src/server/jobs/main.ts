import { plural } from "@/core/text";
import { cpus } from "node:os";
import { answerTo } from "../../../demo/answers";
import { letterAt } from "../../../demo/letters";
import { openDatabase } from "../db";
import { receiveDue } from "../gateway";
import { remindDue, unpinDue, wakeDue } from "./clock";
import { Learner } from "../filing";
import { learnFilings } from "./filing";
import { noticeHabits } from "./habits";
import { keep } from "./keeper";
import { leaveDue } from "./leave";
import { reportDue } from "./report";
import { takeMail } from "./mail";
import { sendDue } from "./outbox";
import { ParsePool } from "./pool";
import { AccountKeeper } from "./sync";
import { work } from "./work";

/** The job process: does imports as they come, until it is told to end. */
const url = process.env.DATABASE_URL;
if (!url) throw new Error("DATABASE_URL is not set: start the app with npm run demo");

const stop = new AbortController();
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => stop.abort());
// Each account that is seen to holds a connection of its own meanwhile.
const db = openDatabase(url, 10);
const worker = new URL("./parse-worker.mjs", import.meta.url).pathname;
const log = (text: string) => console.error(`jobs: ${text}`);

/** How often the keeper looks. */
const KEEP_EVERY_MS = 3_600_000;
const look = () => void keep(db, new Date(), log).catch((error: Error) => log(`keeping stopped: ${error.message}`));
const keeping = setInterval(look, KEEP_EVERY_MS);
look();

/** How often the clock is looked at, and new mail. */
const LOOK_MS = 1000;

/**
 * Does something again and again, never twice at a time; what goes wrong is said, and it is done again.
 * @returns ends it, once what is under way is done: what still asked of a database that is being left would wait for ever
 */
function repeated(name: string, act: () => Promise<string | null>): () => Promise<void> {
  let now: Promise<void> | null = null;
  const once = async () => {
    try {
      const said = await act();
      if (said) log(said);
    } catch (error) {
      log(`${name} stopped: ${error instanceof Error ? error.message : String(error)}`);
    }
    now = null;
  };
  const timer = setInterval(() => (now ??= once()), LOOK_MS);
  return async () => {
    clearInterval(timer);
    await now;
  };
}

const learner = new Learner(db);
const accounts = new AccountKeeper(db, () => new ParsePool(worker, 1), log);

const stops = [
  repeated("seeing to accounts", async () => {
    await accounts.seeToAll(new Date());
    return null;
  }),
  repeated("bringing back", async () => {
    const count = await wakeDue(db, new Date());
    return count > 0 ? `brought back ${plural(count, "deferred message")}` : null;
  }),
  repeated("reminding", async () => {
    const count = await remindDue(db, new Date());
    return count > 0 ? `brought back ${plural(count, "unanswered message")}` : null;
  }),
  repeated("unpinning", async () => {
    const count = await unpinDue(db, new Date());
    return count > 0 ? `took the pin off ${plural(count, "message")}` : null;
  }),
  repeated("learning where mail is filed", async () => {
    const count = await learnFilings(db, learner, new Date(), () => stop.signal.aborted);
    return count > 0 ? `learned where ${plural(count, "message")} went` : null;
  }),
  repeated("noticing what recurs", async () => {
    await noticeHabits(db, () => stop.signal.aborted);
    return null;
  }),
  repeated("leaving lists", async () => {
    const count = await leaveDue(db, new Date());
    return count > 0 ? `asked to leave ${plural(count, "list")}` : null;
  }),
  repeated("reporting", async () => {
    const count = await reportDue(db, new Date());
    return count > 0 ? `reported ${plural(count, "message")}` : null;
  }),
  repeated("sending", async () => {
    const count = await sendDue(db, new Date());
    return count > 0 ? `sent ${plural(count, "message")}` : null;
  }),
  repeated("taking mail in", async () => {
    await receiveDue(db, new Date(), { write: letterAt, answer: answerTo });
    const count = await takeMail(db, () => new ParsePool(worker, 1), new Date());
    return count > 0 ? `took in ${plural(count, "new message")}` : null;
  }),
];

await work(db, worker, Math.max(1, Math.min(4, cpus().length)), stop.signal, log);
clearInterval(keeping);
const ended = stops.map((end) => end());
await accounts.close();
await Promise.all(ended);
await db.close();
