import { route } from "@/app/api/http/answer";
import { number } from "@/app/api/http/read";
import { readJob } from "@/server/act";

export const GET = route(async ({ context, params }) => Response.json(await readJob(context, number(params.id, "id"))));
