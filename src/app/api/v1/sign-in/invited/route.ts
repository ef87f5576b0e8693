import { openRoute } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { heldBy } from "@/app/api/http/session";
import { invitedRequest } from "@/core/api";
import { beginInvited } from "@/server/act";

export const POST = openRoute(async ({ from, request }) =>
  heldBy(request, await beginInvited(from, await body(request, invitedRequest))),
);
