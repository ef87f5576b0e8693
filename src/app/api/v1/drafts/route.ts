import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { newDraft } from "@/core/api";
import { createDraft, listDrafts } from "@/server/act";

/** A letter with its quote, as text. */
const MOST_BODY = 4 * 1024 * 1024;

export const GET = route(async ({ context }) => Response.json(await listDrafts(context)));
export const POST = route(async ({ context, request }) =>
  Response.json(await createDraft(context, await body(request, newDraft, MOST_BODY)), { status: 201 }),
);
