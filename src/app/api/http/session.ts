import { LONGEST_DAYS } from "@/server/act";
import { siteOf } from "./hosts";

/**
 * The cookie that says who is asking (RFC 6265). Only the API is sent it, no script reads it, and no page of another
 * site can have a request sent with it. Ports share cookies, so that its name says the port: two apps on one machine
 * do not sign each other out.
 */

const nameOf = (request: Request): string => {
  const port = /:(\d{1,5})$/.exec(request.headers.get("host") ?? "")?.[1];
  return port === undefined ? "tachyne" : `tachyne-${port}`;
};

/** What the browser holds; null for nothing. */
export function tokenOf(request: Request): string | null {
  const name = nameOf(request);
  for (const pair of (request.headers.get("cookie") ?? "").split(";")) {
    const at = pair.indexOf("=");
    if (pair.slice(0, at).trim() === name) return pair.slice(at + 1).trim();
  }
  return null;
}

/** What a program says it holds (RFC 6750); null where it says nothing. */
export const bearerOf = (request: Request): string | null =>
  /^bearer (.*)$/i.exec(request.headers.get("authorization") ?? "")?.[1] ?? null;

function cookie(request: Request, value: string, seconds: number): string {
  const secure = siteOf(request.headers).origin.startsWith("https:") ? "; Secure" : "";
  return `${nameOf(request)}=${value}; Path=/api; Max-Age=${seconds}; HttpOnly; SameSite=Strict${secure}`;
}

/** The browser holds it from now on, for as long as a session may last: the server says when it is over. */
export const heldBy = (request: Request, token: string): Response =>
  Response.json({ ok: true }, { headers: { "set-cookie": cookie(request, token, LONGEST_DAYS * 86_400) } });

/** And from now on not any more. */
export const letGoBy = (request: Request): Response =>
  new Response(null, { status: 204, headers: { "set-cookie": cookie(request, "", 0) } });
