import { route } from "@/app/api/http/answer";
import { listTroubles } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listTroubles(context)));
