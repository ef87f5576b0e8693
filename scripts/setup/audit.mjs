import { execFile } from "node:child_process";

const GRAVE = new Set(["high", "critical"]);
const PATIENCE_MS = 60_000;

/** @returns {Promise<string>} what it prints: it ends with a 1 also where it found something */
const asked = (folder, options) =>
  new Promise((resolve) => {
    const args = ["audit", "--omit=dev", "--json", ...options];
    execFile("npm", args, { cwd: folder, timeout: PATIENCE_MS, maxBuffer: 1 << 26 }, (_, stdout) => resolve(stdout));
  });

/**
 * Asks the registry what is known against the packages that the app runs with.
 * @param {string} folder where package.json and its lock are
 * @param {readonly string[]} options more of npm's
 * @returns {Promise<{ found: string[], unasked: string | null }>} what is grave, in words; why it could not be asked
 */
export async function audit(folder, options = []) {
  let answer;
  try {
    answer = JSON.parse(await asked(folder, options));
  } catch {
    return { found: [], unasked: "npm says nothing" };
  }
  if (!answer.vulnerabilities)
    return {
      found: [],
      unasked: `the registry answers ${answer.statusCode ? `with ${answer.statusCode}` : "nothing"}`,
    };
  const grave = Object.values(answer.vulnerabilities).filter(({ severity }) => GRAVE.has(severity));
  const found = grave.map(({ name, severity, via }) => {
    const why = via.map((one) => (typeof one === "string" ? `by ${one}` : one.title));
    return `${name} (${severity}): ${why.join("; ")}`;
  });
  return { found, unasked: null };
}
