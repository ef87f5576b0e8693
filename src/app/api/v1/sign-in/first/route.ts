import { openRoute } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { heldBy } from "@/app/api/http/session";
import { beginRequest } from "@/core/api";
import { beginFirst } from "@/server/act";

export const POST = openRoute(async ({ from, request }) =>
  heldBy(request, await beginFirst(from, await body(request, beginRequest))),
);
