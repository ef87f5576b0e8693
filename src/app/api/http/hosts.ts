import type { Site } from "@/server/act";

/** Names under which this machine reaches itself. */
const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?$/;

/**
 * Where the app is reached from elsewhere: TACHYNE_ORIGIN, such as https://mail.larch.example, of a server that stands
 * before this one and passes Host on. Without it, this machine alone is answered.
 */
function ownOrigin(): URL | null {
  const text = process.env.TACHYNE_ORIGIN;
  if (text === undefined || text === "") return null;
  const url = URL.canParse(text) ? new URL(text) : null;
  if (!url || !/^https?:$/.test(url.protocol) || url.origin !== text)
    throw new Error(`TACHYNE_ORIGIN is "${text}": write it like https://mail.larch.example, with nothing behind it.`);
  return url;
}

/** The origin of pages that may ask under that host; null for a host that is not this app's. */
function originAt(host: string): string | null {
  const own = ownOrigin();
  if (own?.host === host) return own.origin;
  return LOOPBACK.test(host) ? `http://${host}` : null;
}

/**
 * Whether a request may be answered. A page of another site can send requests here, and can make its own name
 * point here; both show in Origin and Host.
 */
export function isOwn(headers: Headers): boolean {
  const expected = originAt(headers.get("host") ?? "");
  if (expected === null) return false;
  const origin = headers.get("origin");
  if (origin !== null && origin !== expected) return false;
  const site = headers.get("sec-fetch-site");
  return site === null || site === "same-origin" || site === "none";
}

/** Where a request was sent to, as browsers see it. */
export function siteOf(headers: Headers): Site {
  const host = headers.get("host") ?? "";
  return { host: host.replace(/:\d+$/, ""), origin: originAt(host) ?? `http://${host}` };
}

/** Whether others than this machine can ask: then nobody is the first person for having come first. */
export const isPublic = (): boolean => ownOrigin() !== null;

/**
 * Where a request comes from, an address of the network; null where only this machine can ask. The server before this
 * one adds the address it sees at the end: what stands before it, anybody may have written.
 */
export function comesFrom(headers: Headers): string | null {
  if (ownOrigin() === null) return null;
  return headers.get("x-forwarded-for")?.split(",").at(-1)?.trim() || null;
}
