import { route } from "@/app/api/http/answer";
import { sharedIcs } from "@/server/act";

/** What whoever has the address may read: one calendar, and nothing else. */
export const GET = route(
  async ({ context, params }) =>
    new Response(await sharedIcs(context, params.secret!.replace(/\.ics$/, "")), {
      headers: { "content-type": "text/calendar; charset=utf-8", "cache-control": "no-store" },
    }),
);
