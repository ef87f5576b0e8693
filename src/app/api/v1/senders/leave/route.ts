import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { leaveRequest } from "@/core/api";
import { leaveSenders } from "@/server/act";

export const POST = route(async ({ context, request }) =>
  Response.json(await leaveSenders(context, await body(request, leaveRequest))),
);
