import { uuidShape, undoRequest } from "@/core/api";
import { route } from "@/app/api/http/answer";
import { bodyOrNothing, checked } from "@/app/api/http/read";
import { runId } from "@/core/id";
import { takeBack } from "@/server/act";

export const POST = route(async ({ context, params, request }) => {
  const { id } = await bodyOrNothing(request, undoRequest);
  return Response.json(await takeBack(context, "redo", runId(checked(params.id, uuidShape)), id));
});
