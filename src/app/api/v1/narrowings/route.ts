import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { newNarrowing } from "@/core/api";
import { listNarrowings, noteNarrowing } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listNarrowings(context)));
export const POST = route(async ({ context, request }) => {
  await noteNarrowing(context, (await body(request, newNarrowing)).text);
  return new Response(null, { status: 204 });
});
