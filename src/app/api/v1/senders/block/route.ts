import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { blockRequest } from "@/core/api";
import { blockSenders } from "@/server/act";

export const POST = route(async ({ context, request }) => {
  await blockSenders(context, await body(request, blockRequest));
  return new Response(null, { status: 204 });
});
