import { openRoute } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { heldBy } from "@/app/api/http/session";
import { signedRequest } from "@/core/api";
import { askPasskey, signInByPasskey } from "@/server/act";

export const GET = openRoute(async ({ from }) => Response.json(await askPasskey(from)));
export const POST = openRoute(async ({ from, request }) =>
  heldBy(request, await signInByPasskey(from, (await body(request, signedRequest)).credential)),
);
