import { number, route } from "@/app/api/http/answer";
import { readJob } from "@/server/act";

export const GET = route(async ({ context, params }) => Response.json(await readJob(context, number(params.id, "id"))));
