import { lookup, type LookupAddress } from "node:dns";
import { request } from "node:https";
import { BlockList, isIP } from "node:net";
import type { LeaveOutcome } from "../gateway";

/** Leaving a list of the net by one request (RFC 8058): without cookies, without following where it sends one. */

const TIMEOUT_MS = 15_000;
const BODY = "List-Unsubscribe=One-Click";

/** A stranger's message names the address: it must not reach into the net that the server stands in. */
const INSIDE = new BlockList();
for (const [net, prefix] of [
  ["0.0.0.0", 8],
  ["10.0.0.0", 8],
  ["100.64.0.0", 10],
  ["127.0.0.0", 8],
  ["169.254.0.0", 16],
  ["172.16.0.0", 12],
  ["192.0.0.0", 24],
  ["192.168.0.0", 16],
  ["198.18.0.0", 15],
  ["224.0.0.0", 3],
] as const)
  INSIDE.addSubnet(net, prefix, "ipv4");
for (const [net, prefix] of [
  ["::", 127],
  ["64:ff9b::", 96],
  ["fc00::", 7],
  ["fe80::", 10],
  ["ff00::", 8],
] as const)
  INSIDE.addSubnet(net, prefix, "ipv6");

export function isInside(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  const plain = mapped ?? address;
  return isIP(plain) === 0 || INSIDE.check(plain, isIP(plain) === 6 ? "ipv6" : "ipv4");
}

class Inside extends Error {}

/** Names are looked up and judged once, by whoever connects: a second look might find another address. */
const lookUpOutside: typeof lookup = ((
  host: string,
  options: { all?: boolean },
  done: (error: Error | null, found?: string | LookupAddress[], family?: number) => void,
) => {
  lookup(host, { all: true }, (error, found) => {
    if (error) return done(error);
    if (found.some(({ address }) => isInside(address))) return done(new Inside());
    if (options.all) return done(null, found);
    done(null, found[0]!.address, found[0]!.family);
  });
}) as never;

const outcomeOf = (status: number): LeaveOutcome => {
  if (status >= 200 && status < 300) return { is: "left" };
  if (status === 429 || status >= 500) return { is: "later", said: `Its server answered ${status}.` };
  return { is: "refused", said: `Its server answered ${status}: open its page instead.` };
};

export const postLeave = (target: string): Promise<LeaveOutcome> =>
  new Promise((resolve) => {
    const inside = { is: "refused", said: "Its address leads into your own network: it was not asked." } as const;
    const url = new URL(target);
    if (url.protocol !== "https:") return resolve({ is: "refused", said: "Its address is not encrypted." });
    const host = url.hostname.replace(/^\[|\]$/g, "");
    if (isIP(host) !== 0 && isInside(host)) return resolve(inside);
    const asked = request(
      url,
      {
        method: "POST",
        lookup: lookUpOutside,
        timeout: TIMEOUT_MS,
        headers: { "content-type": "application/x-www-form-urlencoded", "content-length": Buffer.byteLength(BODY) },
      },
      (answer) => {
        answer.resume();
        resolve(outcomeOf(answer.statusCode ?? 0));
      },
    );
    asked.on("timeout", () => asked.destroy(new Error("it did not answer in time")));
    asked.on("error", (error) =>
      resolve(error instanceof Inside ? inside : { is: "later", said: `Its server cannot be asked: ${error.message}` }),
    );
    asked.end(BODY);
  });
