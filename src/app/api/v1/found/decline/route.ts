import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { declineRequest } from "@/core/api";
import { decline } from "@/server/act";

export const POST = route(async ({ context, request }) => {
  await decline(context, await body(request, declineRequest));
  return new Response(null, { status: 204 });
});
