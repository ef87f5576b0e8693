import { route } from "@/app/api/http/answer";
import { body, checked, shortNumber } from "@/app/api/http/read";
import { folderPatch, uuidShape } from "@/core/api";
import { removeFolder, changeFolder } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeFolder(context, shortNumber(params.id), await body(request, folderPatch))),
);

/** Its mail goes to the folder named by ?to=; the answer is that of the run which moves it. */
export const DELETE = route(async ({ context, params, query }) =>
  Response.json(
    await removeFolder(context, shortNumber(params.id), {
      to: query.get("to"),
      merge: query.get("merge") === "true",
      run: checked(query.get("run") ?? undefined, uuidShape.optional()),
    }),
  ),
);
