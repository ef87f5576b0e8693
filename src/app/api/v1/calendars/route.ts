import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { newCalendar } from "@/core/api";
import { createCalendar, listCalendars } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listCalendars(context)));
export const POST = route(async ({ context, request }) =>
  Response.json(await createCalendar(context, await body(request, newCalendar)), { status: 201 }),
);
