import { route } from "@/app/api/http/answer";
import { readFiling } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await readFiling(context)));
