import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { contactPatch } from "@/core/api";
import { changeContact, deleteContact, readBetween } from "@/server/act";

export const GET = route(async ({ context, params }) =>
  Response.json(await readBetween(context, params.address ?? "")),
);
export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeContact(context, params.address ?? "", await body(request, contactPatch))),
);
export const DELETE = route(async ({ context, params }) => {
  await deleteContact(context, params.address ?? "");
  return new Response(null, { status: 204 });
});
