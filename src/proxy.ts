import { NextResponse, type NextRequest } from "next/server";
import { problem } from "@/app/api/http/problem";
import { isOwn } from "@/app/api/http/hosts";
import { policyOf } from "@/app/api/http/policy";

const POLICY = "content-security-policy";

const isText = (path: string): boolean => {
  try {
    decodeURIComponent(path);
    return true;
  } catch {
    return false;
  }
};

/**
 * Pages, like the API, are answered under the names that the app has. The API checks for itself, since uploads must not be held here;
 * of its addresses only those with an escape in them come by, as the router falls over one that is no text.
 */
export function proxy(request: NextRequest) {
  const { headers, url } = request;
  if (!isText(new URL(url).pathname)) return problem(400, "Not a text", "The address is not written in UTF-8.");
  // Following a link from elsewhere to a page is fine; only Host and Origin tell of a page that pretends.
  const own = new Headers({
    host: headers.get("host") ?? "",
    ...(headers.get("origin") ? { origin: headers.get("origin")! } : {}),
  });
  if (!isOwn(own)) return new NextResponse("Tachyne answers only under the names that it has.", { status: 403 });
  const { text, isMade } = policyOf(request.nextUrl.pathname);
  const asked = new Headers(headers);
  if (isMade) asked.set(POLICY, text);
  const answer = NextResponse.next({ request: { headers: asked } });
  answer.headers.set(POLICY, text);
  return answer;
}

export const config = { matcher: ["/((?!api/).*)", "/api/(.*%.*)"] };
