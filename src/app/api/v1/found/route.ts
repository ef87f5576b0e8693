import { route } from "@/app/api/http/answer";
import { listFound } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listFound(context)));
