import { route } from "@/app/api/http/answer";
import { body, shortNumber } from "@/app/api/http/read";
import { exceptShape } from "@/core/api";
import { exceptSenders } from "@/server/act";

export const POST = route(async ({ context, params, request }) => {
  const { ids } = await body(request, exceptShape);
  return Response.json(await exceptSenders(context, shortNumber(params.id), ids));
});
