import { readdirSync, readFileSync } from "node:fs";

/** What the machine gives to whom, as /proc says (Linux). */

const TICKS = 100;
const textOf = (pid: string, what: string): string => readFileSync(`/proc/${pid}/${what}`, "utf8");
const numbered = (): string[] => readdirSync("/proc").filter((name) => /^\d+$/.test(name));
const commandOf = (pid: string): string => textOf(pid, "cmdline").replaceAll("\0", " ");
/** What stands behind the name of the program, which may hold spaces itself: the state, the parent and so on. */
const statOf = (pid: string): string[] => {
  const stat = textOf(pid, "stat");
  return stat.slice(stat.lastIndexOf(")") + 2).split(" ");
};

export const TAKERS = ["web", "jobs", "database", "what asks"] as const;
type Taker = (typeof TAKERS)[number];

const SERVER = process.env.TEST_DATABASE_URL!;
const isPostmaster = (command: string): boolean =>
  /\/postgres .*-D/.test(command) && command.includes(`-p ${new URL(SERVER).port}`);

/** Of this benchmark: others of the same kind, such as an app that is tried out beside it, are not counted. */
function takerOf(pid: string): Taker | null {
  if (Number(pid) === process.pid) return "what asks";
  const command = commandOf(pid);
  if (isPostmaster(command)) return "database";
  if (command.startsWith("postgres:")) return isPostmaster(commandOf(statOf(pid)[1]!)) ? "database" : null;
  const taker = command.includes("next-server") ? "web" : command.includes("dist/jobs.mjs") ? "jobs" : null;
  return taker && textOf(pid, "environ").includes(SERVER) ? taker : null;
}

/** Each process that is one of them. Those that end meanwhile are left out. */
function* takers(): Generator<readonly [Taker, string]> {
  for (const pid of numbered())
    try {
      const taker = takerOf(pid);
      if (taker) yield [taker, pid];
    } catch {
      // It ended meanwhile.
    }
}

/** Seconds of processor that each process has taken so far, by its number. */
export type Spent = ReadonlyMap<string, { readonly taker: Taker; readonly seconds: number }>;
export function processor(): Spent {
  const spent = new Map<string, { taker: Taker; seconds: number }>();
  for (const [taker, pid] of takers())
    try {
      const [user, system] = statOf(pid).slice(11, 13).map(Number);
      spent.set(pid, { taker, seconds: (user! + system!) / TICKS });
    } catch {
      // It ended meanwhile.
    }
  return spent;
}

/** What each has taken between two looks; of processes that have ended since, nothing is known any more. */
export function between(before: Spent, after: Spent): Record<Taker, number> {
  const sums = { web: 0, jobs: 0, database: 0, "what asks": 0 };
  for (const [pid, { taker, seconds }] of after) sums[taker] += seconds - (before.get(pid)?.seconds ?? 0);
  return sums;
}

/** Seconds of processor that the machine under this one has given to others while something here wanted them. */
export const stolen = (): number =>
  Number(readFileSync("/proc/stat", "utf8").split("\n")[0]!.trim().split(/ +/)[8]) / TICKS;

/** A tick is how finely it is counted: what is lost by and by is no more than that between two looks. */
const LEAST_SECONDS = 1.5 / TICKS;
/** Whoever comes so soon behind a theft stands in the line that it left. */
const AFTER_MS = 1000;

/** When others took something of the machine, as far as somebody looks. */
export class Thefts {
  private readonly times: { readonly from: number; readonly to: number }[] = [];
  private last = { at: performance.now(), stolen: stolen() };

  look(): void {
    const now = { at: performance.now(), stolen: stolen() };
    if (now.stolen - this.last.stolen >= LEAST_SECONDS) this.times.push({ from: this.last.at, to: now.at });
    this.last = now;
  }

  /** Whether the machine was all there for a wait, and shortly before it. */
  isFree(began: number, ms: number): boolean {
    return !this.times.some(({ from, to }) => from < began + ms && to > began - AFTER_MS);
  }
}

/** What it has in memory, in MB. */
export function residentMb(whose: Taker): number {
  let sum = 0;
  for (const [taker, pid] of takers())
    if (taker === whose) sum += Number(/VmRSS:\s+(\d+)/.exec(textOf(pid, "status"))![1]) / 1024;
  return sum;
}
