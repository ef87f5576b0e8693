import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { filingReset } from "@/core/api";
import { resetFiling } from "@/server/act";

export const POST = route(async ({ context, request }) => {
  await resetFiling(context, await body(request, filingReset));
  return new Response(null, { status: 204 });
});
