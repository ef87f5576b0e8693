import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { inviteRequest } from "@/core/api";
import { invite } from "@/server/act";

export const POST = route(async ({ context, params, request }) =>
  Response.json(await invite(context, number(params.id, "id"), await body(request, inviteRequest))),
);
