import { body, number, route } from "@/app/api/http/answer";
import { labelPatch, uuidShape } from "@/core/api";
import { changeLabel, removeLabel } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeLabel(context, number(params.id, "id"), await body(request, labelPatch))),
);

/** Takes it off all messages; the answer is that of the run which does so. */
export const DELETE = route(async ({ context, params, query }) =>
  Response.json(
    await removeLabel(context, number(params.id, "id"), uuidShape.optional().parse(query.get("run") ?? undefined)),
  ),
);
