import { openRoute, route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { heldBy, letGoBy } from "@/app/api/http/session";
import { signInRequest } from "@/core/api";
import { endSession, readSignIn, signIn } from "@/server/act";

export const GET = openRoute(async ({ asking, from }) =>
  Response.json(await readSignIn(from, asking?.context.person ?? null)),
);
export const POST = openRoute(async ({ from, request }) =>
  heldBy(request, await signIn(from, await body(request, signInRequest))),
);
export const DELETE = route(async ({ context, session, request }) => {
  await endSession(context, session);
  return letGoBy(request);
});
