import { mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Trouble } from "./say.mjs";

/** One start command at a time for one folder of data: a second one would take the first one's database away. */

/** Who has the folder, and under which address it answers. */
export const NOTE = "running.json";

/** When a process was started, in the kernel's ticks, so that a pid used again is not taken for it; null when it is gone. */
function startOf(pid) {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, "utf8");
    const [state, ...fields] = stat.slice(stat.lastIndexOf(")") + 2).split(" ");
    // Field 22 of the file, of which the first two stand before the bracket.
    return state === "Z" ? null : fields[18];
  } catch {
    return null;
  }
}

function readNote(file) {
  try {
    return JSON.parse(readFileSync(file, "utf8"));
  } catch {
    return null;
  }
}

/**
 * Takes a folder of data for this process, before anything of it is touched.
 * @param {string} data an absolute folder; made where it is missing
 * @returns {{ at: (address: string) => void, leave: () => void }} notes the address; gives the folder up
 * @throws Trouble with the address of the one that runs already
 */
export function takeAlone(data) {
  mkdirSync(data, { recursive: true });
  const file = join(data, NOTE);
  const own = { pid: process.pid, start: startOf(process.pid), address: null };
  for (let tries = 0; ; tries++) {
    try {
      writeFileSync(file, JSON.stringify(own), { flag: "wx" });
      break;
    } catch (error) {
      if (error.code !== "EEXIST" || tries > 3) throw error;
    }
    const other = readNote(file);
    if (other && startOf(other.pid) === other.start && other.start !== null)
      throw new Trouble(
        other.address
          ? `Tachyne runs already, at ${other.address} (process ${other.pid}). End that one with Ctrl-C first, or keep another one's data elsewhere with --data DIR.`
          : `Tachyne is just being started by process ${other.pid}. Wait for its address, or end it first.`,
      );
    // Who left it there has ended without being able to take it away.
    rmSync(file, { force: true });
  }
  return {
    at: (address) => writeFileSync(file, JSON.stringify({ ...own, address })),
    leave: () => {
      if (readNote(file)?.pid === process.pid) rmSync(file, { force: true });
    },
  };
}
