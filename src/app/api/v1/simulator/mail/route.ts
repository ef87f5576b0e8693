import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { mailRequest } from "@/core/api";
import { bringMail } from "@/server/act";

export const POST = route(async ({ context, request }) =>
  Response.json(await bringMail(context, (await body(request, mailRequest)).count), { status: 202 }),
);
