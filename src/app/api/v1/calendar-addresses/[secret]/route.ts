import { openRoute } from "@/app/api/http/answer";
import { sharedIcs } from "@/server/act";

/** What whoever has the address may read: one calendar, and nothing else. */
export const GET = openRoute(
  async ({ from, params }) =>
    new Response(await sharedIcs(from.db, params.secret!.replace(/\.ics$/, "")), {
      headers: { "content-type": "text/calendar; charset=utf-8", "cache-control": "no-store" },
    }),
);
