import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { codeRequest } from "@/core/api";
import { endCodes } from "@/server/act";

export const POST = route(async ({ context, request }) => {
  await endCodes(context, (await body(request, codeRequest)).code);
  return new Response(null, { status: 204 });
});
