import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { testRequest } from "@/core/api";
import { testAccount } from "@/server/act";

export const POST = route(async ({ context, request }) =>
  Response.json(await testAccount(context, await body(request, testRequest))),
);
