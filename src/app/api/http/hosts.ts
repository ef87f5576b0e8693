/** Names under which this machine reaches itself. */
const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?$/;

/**
 * Whether a request may be answered. A page of another site can send requests here, and can make its own name
 * point here; both show in Origin and Host.
 */
export function isOwn(headers: Headers): boolean {
  const host = headers.get("host") ?? "";
  if (!LOOPBACK.test(host)) return false;
  const origin = headers.get("origin");
  if (origin !== null && origin !== `http://${host}`) return false;
  const site = headers.get("sec-fetch-site");
  return site === null || site === "same-origin" || site === "none";
}
