import { provedRoute } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { passkeyRequest } from "@/core/api";
import { beginPasskey, keepPasskey } from "@/server/act";

export const GET = provedRoute(async ({ context, from }) => Response.json(await beginPasskey(context, from.site)));
export const POST = provedRoute(async ({ context, from, request }) => {
  await keepPasskey(context, await body(request, passkeyRequest), from.site);
  return Response.json({ ok: true }, { status: 201 });
});
