import { route } from "@/app/api/http/answer";
import { checked } from "@/app/api/http/read";
import { uuidShape } from "@/core/api";
import { runId } from "@/core/id";
import { readEntry } from "@/server/act";

export const GET = route(async ({ context, params }) =>
  Response.json(await readEntry(context, runId(checked(params.id, uuidShape)))),
);
