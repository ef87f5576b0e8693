import { body, number, route } from "@/app/api/http/answer";
import { folderPatch, uuidShape } from "@/core/api";
import { removeFolder, renameFolder } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await renameFolder(context, number(params.id, "id"), await body(request, folderPatch))),
);

/** Its mail goes to the folder named by ?to=; the answer is that of the run which moves it. */
export const DELETE = route(async ({ context, params, query }) =>
  Response.json(
    await removeFolder(context, number(params.id, "id"), {
      to: query.get("to"),
      merge: query.get("merge") === "true",
      run: uuidShape.optional().parse(query.get("run") ?? undefined),
    }),
  ),
);
