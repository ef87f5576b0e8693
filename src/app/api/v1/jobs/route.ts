import { route } from "@/app/api/http/answer";
import { readJobs } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await readJobs(context)));
