import { route } from "@/app/api/http/route";
import { readJobs } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await readJobs(context)));
