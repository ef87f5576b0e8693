import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { trialRequest } from "@/core/api";
import { tryOnPast } from "@/server/act";

export const POST = route(async ({ context, request }) =>
  Response.json(await tryOnPast(context, await body(request, trialRequest))),
);
