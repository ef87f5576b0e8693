import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { asideRequest } from "@/core/api";
import { standAside } from "@/server/act";

export const POST = route(async ({ context, request }) => {
  await standAside(context, await body(request, asideRequest));
  return new Response(null, { status: 204 });
});
