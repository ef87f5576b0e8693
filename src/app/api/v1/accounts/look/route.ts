import { route } from "@/app/api/http/answer";
import { lookNow } from "@/server/act";

export const POST = route(async ({ context }) => Response.json(await lookNow(context), { status: 202 }));
