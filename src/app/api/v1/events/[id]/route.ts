import { route } from "@/app/api/http/answer";
import { body, bodyOrNothing, number } from "@/app/api/http/read";
import { eventPatch, eventScope } from "@/core/api";
import { changeEvent, deleteEvent } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeEvent(context, number(params.id, "id"), await body(request, eventPatch))),
);
export const DELETE = route(async ({ context, params, request }) => {
  await deleteEvent(context, number(params.id, "id"), await bodyOrNothing(request, eventScope));
  return new Response(null, { status: 204 });
});
