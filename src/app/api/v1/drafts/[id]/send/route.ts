import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { sendRequest } from "@/core/api";
import { sendDraft } from "@/server/act";

export const POST = route(async ({ context, params, request }) =>
  Response.json(await sendDraft(context, number(params.id, "id"), await body(request, sendRequest))),
);
