import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { invitationAnswer } from "@/core/api";
import { answerInvitation, readInvitation } from "@/server/act";

export const GET = route(async ({ context, params }) =>
  Response.json(await readInvitation(context, number(params.id, "id"))),
);
export const POST = route(async ({ context, params, request }) =>
  Response.json(await answerInvitation(context, number(params.id, "id"), await body(request, invitationAnswer))),
);
