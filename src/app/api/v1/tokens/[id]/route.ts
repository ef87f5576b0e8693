import { route } from "@/app/api/http/answer";
import { checked } from "@/app/api/http/read";
import { uuidShape } from "@/core/api";
import { endToken } from "@/server/act";

export const DELETE = route(async ({ context, params }) => {
  await endToken(context, checked(params.id, uuidShape));
  return new Response(null, { status: 204 });
});
