import { spawn } from "node:child_process";

const started = Date.now();
const seconds = () => `${((Date.now() - started) / 1000).toFixed(0).padStart(4)} s`;

/** One line about what is going on, with the time since the start. */
export const say = (text) => process.stderr.write(`${seconds()}  ${text}\n`);

/** A failure a person can do something about: printed without a stack. */
export class Trouble extends Error {}

const OLDEST_NODE = 20;

/** Runs a script's main function; a Trouble ends it with its text, anything else with the stack. */
export async function main(run) {
  try {
    const [major] = process.versions.node.split(".");
    if (Number(major) < OLDEST_NODE)
      throw new Trouble(`Tachyne needs Node ${OLDEST_NODE} or later; this is ${process.versions.node}.`);
    await run();
  } catch (error) {
    process.stderr.write(error instanceof Trouble ? `\n${error.message}\n` : `\n${error?.stack ?? error}\n`);
    process.exitCode = 1;
  }
}

/**
 * Runs a command to its end. While it is silent, a line now and then says that it still runs.
 * @returns {Promise<string>} what it printed
 */
export function command(title, file, args, { env = {}, cwd, show = false, advice = "" } = {}) {
  say(title);
  return new Promise((resolve, reject) => {
    const child = spawn(file, args, {
      cwd,
      env: { ...process.env, ...env },
      stdio: ["ignore", show ? "inherit" : "pipe", show ? "inherit" : "pipe"],
    });
    let output = "";
    child.stdout?.on("data", (data) => (output += data));
    child.stderr?.on("data", (data) => (output += data));
    const still = setInterval(() => say(`  … still at it: ${title}`), 15_000);
    const end = (code) => {
      clearInterval(still);
      if (code === 0) return resolve(output);
      const tail = output.trim().split("\n").slice(-25).join("\n");
      reject(new Trouble(`${title}: "${file} ${args.join(" ")}" failed.\n${tail}\n${advice}`.trim()));
    };
    child.on("error", (error) => {
      output += error.message;
      end(1);
    });
    child.on("close", end);
  });
}
