import { cpus } from "node:os";
import { answerTo } from "../../../demo/answers";
import { letterAt } from "../../../demo/letters";
import { openDatabase, readiness } from "../db";
import { receiveDue } from "../gateway";
import { remindDue, unpinDue, wakeDue } from "./clock";
import { Learner } from "../filing";
import { keepPaces } from "../pace";
import { keepOnUnheard, log, noteWork, serveWatchAsAsked, watchWaiting } from "../watch";
import { learnFilings } from "./filing";
import { noticeHabits } from "./habits";
import { keep } from "./keeper";
import { leaveDue } from "./leave";
import { reportDue } from "./report";
import { takeMail } from "./mail";
import { sendDue } from "./outbox";
import { ParsePool } from "../parse";
import { AccountKeeper } from "./sync";
import { readWaiting } from "./waiting";
import { work } from "./work";

/** The job process: does imports as they come, until it is told to end. */
process.env.TACHYNE_PROCESS = "jobs";
keepOnUnheard();
const url = process.env.DATABASE_URL;
if (!url) throw new Error("DATABASE_URL is not set: start the app with npm run demo");

const stop = new AbortController();
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => stop.abort());
// Each account that is seen to holds a connection of its own meanwhile.
const db = openDatabase(url, 10);
const worker = new URL("./parse-worker.mjs", import.meta.url).pathname;
/** How often the keeper looks. */
const KEEP_EVERY_MS = 3_600_000;
const look = () => void keep(db, new Date(), log).catch((error: unknown) => log.fault("keeping stopped", error));
const keeping = setInterval(look, KEEP_EVERY_MS);
look();

/** How often the clock is looked at, and new mail. */
const LOOK_MS = 1000;
/**
 * What nobody waits for comes less often: it takes more at a time then, and what everybody decides in those seconds
 * costs the database a tenth of what it would cost one by one. Guesses are looked at while one files.
 */
const LEARN_MS = 2000;
const SELDOM_MS = 5000;

/**
 * Does something again and again, never twice at a time; what goes wrong is said, and it is done again.
 * @param done what is said of what was done, and of what there were so many
 * @param act how many it did; null where nobody needs to know
 * @param every milliseconds
 * @returns ends it, once what is under way is done: what still asked of a database that is being left would wait for ever
 */
function repeated(
  name: string,
  done: string,
  of: string,
  act: () => Promise<number | null>,
  every = LOOK_MS,
): () => Promise<void> {
  let now: Promise<void> | null = null;
  const once = async () => {
    try {
      const count = await noteWork(name, act);
      if (count) log.info(done, { [of]: count });
    } catch (error) {
      log.fault("stopped, and begun again", error, { work: name });
    }
    now = null;
  };
  const timer = setInterval(() => (now ??= once()), every);
  return async () => {
    clearInterval(timer);
    await now;
  };
}

const learner = new Learner(db);
const accounts = new AccountKeeper(db, () => new ParsePool(worker, 1), log);
const isEnding = () => stop.signal.aborted;
/** What tells its news by itself, or has none. */
const quiet = (name: string, act: () => Promise<unknown>, every = LOOK_MS) =>
  repeated(
    name,
    "",
    "",
    async () => {
      await act();
      return null;
    },
    every,
  );

const stops = [
  quiet("seeing to accounts", () => accounts.seeToAll(new Date())),
  repeated("bringing back", "brought back what was deferred", "messages", () => wakeDue(db, new Date())),
  repeated("reminding", "brought back what was not answered", "messages", () => remindDue(db, new Date())),
  repeated("unpinning", "took pins off", "messages", () => unpinDue(db, new Date())),
  repeated(
    "learning where mail is filed",
    "learned where mail went",
    "messages",
    () => learnFilings(db, learner, new Date(), isEnding),
    LEARN_MS,
  ),
  quiet("noticing what recurs", () => noticeHabits(db, isEnding), SELDOM_MS),
  quiet("keeping figures", () => keepPaces(db, isEnding), SELDOM_MS),
  repeated("leaving lists", "asked to leave", "lists", () => leaveDue(db, new Date())),
  repeated("reporting", "reported", "messages", () => reportDue(db, new Date())),
  repeated("sending", "sent", "messages", () => sendDue(db, new Date())),
  repeated("taking mail in", "took in new mail", "messages", async () => {
    await receiveDue(db, new Date(), { write: letterAt, answer: answerTo });
    return takeMail(db, () => new ParsePool(worker, 1), new Date());
  }),
];

watchWaiting(() => readWaiting(db));
const watch = serveWatchAsAsked(async () => (isEnding() ? "it was told to end" : readiness(db)));

await work(db, worker, Math.max(1, Math.min(4, cpus().length)), stop.signal, log);
clearInterval(keeping);
const ended = stops.map((end) => end());
await accounts.close();
await Promise.all(ended);
watch?.close();
await db.close();
