import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { passwordRequest } from "@/core/api";
import { changePassword } from "@/server/act";

export const POST = route(async ({ context, session, from, request }) => {
  await changePassword(context, session, from, await body(request, passwordRequest));
  return new Response(null, { status: 204 });
});
