import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { proofRequest } from "@/core/api";
import { prove } from "@/server/act";

export const POST = route(async ({ context, session, from, request }) => {
  await prove(context, session, from, await body(request, proofRequest));
  return new Response(null, { status: 204 });
});
