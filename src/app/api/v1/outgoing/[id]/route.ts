import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { outgoingPatch } from "@/core/api";
import { changeOutgoing } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeOutgoing(context, number(params.id, "id"), await body(request, outgoingPatch))),
);
