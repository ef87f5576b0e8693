import { route } from "@/app/api/http/answer";
import { listSenders } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listSenders(context)));
