import { spawnSync } from "node:child_process";
import { ROOT } from "./packages.mjs";
import { Trouble } from "./say.mjs";

/** Coming in from a script: whoever can read the database can make a link, which signs in once. */

/** What dist/sign-in.mjs ends with where there is nobody whom it could let in. */
const NOBODY = 3;

/**
 * @param env with DATABASE_URL
 * @param {string[]} more options of dist/sign-in.mjs
 * @returns {string | null} what stands behind /sign-in#link=, or with --first what stands behind
 *   /sign-in#invitation=; null where there is nobody yet, or with --first where there is somebody
 * @throws Trouble
 */
export function makeLink(env, ...more) {
  const done = spawnSync(process.execPath, ["dist/sign-in.mjs", ...more], {
    cwd: ROOT,
    env: { ...process.env, ...env },
    encoding: "utf8",
  });
  if (done.status === NOBODY) return null;
  if (done.status !== 0) throw new Trouble(`No link to sign in with could be made.\n${done.stderr}`);
  return done.stdout.trim();
}

/** Where somebody is signed in by it. */
export const linkAddress = (address, link) => `${address}/sign-in#link=${link}`;

/** Where the first person begins by it. */
export const firstAddress = (address, link) => `${address}/sign-in#invitation=${link}`;

/**
 * Signs in with a link.
 * @returns {Promise<{ name: string, value: string }>} the cookie that says so
 * @throws Trouble
 */
export async function signIn(address, link) {
  const answer = await fetch(`${address}/api/v1/sign-in/link`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ link }),
  });
  const cookie = answer.headers.get("set-cookie");
  if (!answer.ok || !cookie) throw new Trouble(`${address} did not let this script in: ${await answer.text()}`);
  const [pair] = cookie.split(";");
  const at = pair.indexOf("=");
  return { name: pair.slice(0, at), value: pair.slice(at + 1) };
}

/** The same as headers of requests. */
export const asHeaders = ({ name, value }) => ({ cookie: `${name}=${value}` });

/** The same as a browser's, for Playwright. */
export const asCookie = (address, { name, value }) => ({
  name,
  value,
  domain: new URL(address).hostname,
  path: "/api",
  httpOnly: true,
  sameSite: "Strict",
});
