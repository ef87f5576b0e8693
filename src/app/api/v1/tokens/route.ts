import { provedRoute, route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { newTokenShape } from "@/core/api";
import { listTokens, makeToken } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listTokens(context)));
export const POST = provedRoute(async ({ context, request }) =>
  Response.json(await makeToken(context, await body(request, newTokenShape)), { status: 201 }),
);
