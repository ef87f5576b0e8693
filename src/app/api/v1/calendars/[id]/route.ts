import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { calendarPatch } from "@/core/api";
import { changeCalendar, deleteCalendar } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeCalendar(context, number(params.id, "id"), await body(request, calendarPatch))),
);
export const DELETE = route(async ({ context, params }) => {
  await deleteCalendar(context, number(params.id, "id"));
  return new Response(null, { status: 204 });
});
