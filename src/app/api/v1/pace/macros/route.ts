import { route } from "@/app/api/http/answer";
import { paceQuery } from "@/app/api/http/pace";
import { readPaceMacros } from "@/server/act";

export const GET = route(async ({ context, query }) => Response.json(await readPaceMacros(context, paceQuery(query))));
