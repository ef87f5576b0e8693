import { route } from "@/app/api/http/answer";
import { number } from "@/app/api/http/read";
import { readMessage } from "@/server/act";

export const GET = route(async ({ context, params }) =>
  Response.json(await readMessage(context, number(params.id, "id"))),
);
