import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { codeRequest } from "@/core/api";
import { confirmCodes } from "@/server/act";

export const POST = route(async ({ context, request }) =>
  Response.json({ codes: await confirmCodes(context, (await body(request, codeRequest)).code) }),
);
