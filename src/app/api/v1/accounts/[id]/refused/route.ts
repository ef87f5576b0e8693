import { route } from "@/app/api/http/answer";
import { shortNumber } from "@/app/api/http/read";
import { tryRefused } from "@/server/act";

export const POST = route(async ({ context, params }) =>
  Response.json(await tryRefused(context, shortNumber(params.id)), { status: 202 }),
);
