import { route } from "@/app/api/http/answer";
import { paceQuery } from "@/app/api/http/pace";
import { readPace } from "@/server/act";

export const GET = route(async ({ context, query }) => Response.json(await readPace(context, paceQuery(query))));
