import { route } from "@/app/api/http/answer";
import { number, textOf } from "@/app/api/http/read";
import { exportIcs, importIcs, MOST_ICS_BYTES } from "@/server/act";

export const GET = route(
  async ({ context, params }) =>
    new Response(await exportIcs(context, number(params.id, "id")), {
      headers: {
        "content-type": "text/calendar; charset=utf-8",
        "content-disposition": 'attachment; filename="calendar.ics"',
      },
    }),
);
export const POST = route(async ({ context, params, request }) =>
  Response.json(await importIcs(context, number(params.id, "id"), await textOf(request, MOST_ICS_BYTES))),
);
