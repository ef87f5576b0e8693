import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { serversRequest } from "@/core/api";
import { findServers } from "@/server/act";

export const POST = route(async ({ context, request }) =>
  Response.json(await findServers(context, await body(request, serversRequest))),
);
