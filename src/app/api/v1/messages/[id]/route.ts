import { number, route } from "@/app/api/http/answer";
import { readMessage } from "@/server/act";

export const GET = route(async ({ context, params }) =>
  Response.json(await readMessage(context, number(params.id, "id"))),
);
