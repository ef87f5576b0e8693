import { route } from "@/app/api/http/answer";
import { paceQuery } from "@/app/api/http/pace";
import { readPaceSenders } from "@/server/act";

export const GET = route(async ({ context, query }) => Response.json(await readPaceSenders(context, paceQuery(query))));
