import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { draftPatch } from "@/core/api";
import { changeDraft, readDraftOf, throwDraftAway } from "@/server/act";

const MOST_BODY = 4 * 1024 * 1024;

export const GET = route(async ({ context, params }) =>
  Response.json(await readDraftOf(context, number(params.id, "id"))),
);
export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeDraft(context, number(params.id, "id"), await body(request, draftPatch, MOST_BODY))),
);
export const DELETE = route(async ({ context, params }) => {
  await throwDraftAway(context, number(params.id, "id"));
  return new Response(null, { status: 204 });
});
