import { NextResponse, type NextRequest } from "next/server";
import { isOwn } from "@/app/api/http/hosts";

/** Pages, like the API, are for this machine only. The API checks for itself, since uploads must not be held here. */
export function proxy(request: NextRequest) {
  const { headers } = request;
  // Following a link from elsewhere to a page is fine; only Host and Origin tell of a page that pretends.
  const own = new Headers({
    host: headers.get("host") ?? "",
    ...(headers.get("origin") ? { origin: headers.get("origin")! } : {}),
  });
  return isOwn(own) ? NextResponse.next() : new NextResponse("Tachyne answers only on this machine.", { status: 403 });
}

export const config = { matcher: "/((?!api/).*)" };
