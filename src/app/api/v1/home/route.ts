import { route } from "@/app/api/http/answer";
import { readHome } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await readHome(context)));
