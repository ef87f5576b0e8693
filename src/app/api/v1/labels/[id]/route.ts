import { route } from "@/app/api/http/answer";
import { body, checked, shortNumber } from "@/app/api/http/read";
import { labelPatch, uuidShape } from "@/core/api";
import { changeLabel, removeLabel } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeLabel(context, shortNumber(params.id), await body(request, labelPatch))),
);

/** Takes it off all messages; the answer is that of the run which does so. */
export const DELETE = route(async ({ context, params, query }) =>
  Response.json(
    await removeLabel(context, shortNumber(params.id), checked(query.get("run") ?? undefined, uuidShape.optional())),
  ),
);
