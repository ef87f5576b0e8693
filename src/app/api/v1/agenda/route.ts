import { route } from "@/app/api/http/answer";
import { rangeOf } from "@/app/api/http/read";
import { readAgenda } from "@/server/act";

export const GET = route(async ({ context, query }) => Response.json(await readAgenda(context, rangeOf(query))));
