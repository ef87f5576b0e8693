import { openRoute } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { heldBy } from "@/app/api/http/session";
import { linkRequest } from "@/core/api";
import { signInByLink } from "@/server/act";

export const POST = openRoute(async ({ from, request }) =>
  heldBy(request, await signInByLink(from, (await body(request, linkRequest)).link)),
);
