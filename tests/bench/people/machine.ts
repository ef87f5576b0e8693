import { readdirSync, readFileSync } from "node:fs";

/** What the machine gives to whom, as /proc says (Linux). */

const TICKS = 100;
const textOf = (pid: string, what: string): string => readFileSync(`/proc/${pid}/${what}`, "utf8");
const numbered = (): string[] => readdirSync("/proc").filter((name) => /^\d+$/.test(name));

export const TAKERS = ["web", "jobs", "database", "what asks"] as const;
type Taker = (typeof TAKERS)[number];

function takerOf(pid: string, command: string): Taker | null {
  if (Number(pid) === process.pid) return "what asks";
  if (command.includes("next-server")) return "web";
  if (command.includes("dist/jobs.mjs")) return "jobs";
  return command.startsWith("postgres:") || /\/postgres .*-D/.test(command) ? "database" : null;
}

/** Of this benchmark: others of the same kind, such as an app that is tried out beside it, have other databases. */
const isOurs = (taker: Taker, pid: string): boolean =>
  taker === "database" || textOf(pid, "environ").includes(process.env.TEST_DATABASE_URL!);

/** Each process that is one of them. Those that end meanwhile are left out. */
function* takers(): Generator<readonly [Taker, string]> {
  for (const pid of numbered())
    try {
      const taker = takerOf(pid, textOf(pid, "cmdline").replaceAll("\0", " "));
      if (taker && isOurs(taker, pid)) yield [taker, pid];
    } catch {
      // It ended meanwhile.
    }
}

/** Seconds of processor that each has taken so far. */
export function processor(): Record<Taker, number> {
  const used = { web: 0, jobs: 0, database: 0, "what asks": 0 };
  for (const [taker, pid] of takers())
    try {
      const stat = textOf(pid, "stat");
      const field = stat
        .slice(stat.lastIndexOf(")") + 2)
        .split(" ")
        .map(Number);
      used[taker] += (field[11]! + field[12]!) / TICKS;
    } catch {
      // It ended meanwhile.
    }
  return used;
}

/** What it has in memory, in MB. */
export function residentMb(whose: Taker): number {
  let sum = 0;
  for (const [taker, pid] of takers())
    if (taker === whose) sum += Number(/VmRSS:\s+(\d+)/.exec(textOf(pid, "status"))![1]) / 1024;
  return sum;
}
