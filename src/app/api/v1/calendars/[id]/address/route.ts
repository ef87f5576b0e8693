import { route } from "@/app/api/http/answer";
import { number } from "@/app/api/http/read";
import { shareCalendar, unshareCalendar } from "@/server/act";

export const POST = route(async ({ context, params }) =>
  Response.json(await shareCalendar(context, number(params.id, "id"))),
);
export const DELETE = route(async ({ context, params }) =>
  Response.json(await unshareCalendar(context, number(params.id, "id"))),
);
