import { spawn, type ChildProcess } from "node:child_process";

/** The built job process. @param env what its environment says beside this one's */
export const startJobs = (env: Readonly<Record<string, string>>): ChildProcess =>
  spawn(process.execPath, ["dist/jobs.mjs"], { env: { ...process.env, ...env }, stdio: "ignore" });

/** Ends a process at once, as kill -9 does, if it has not ended yet. */
export async function kill(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const ended = new Promise((resolve) => child.on("exit", resolve));
  child.kill("SIGKILL");
  await ended;
}
