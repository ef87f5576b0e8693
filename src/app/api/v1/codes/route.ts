import { provedRoute } from "@/app/api/http/answer";
import { beginCodes } from "@/server/act";

export const POST = provedRoute(async ({ context }) => Response.json(await beginCodes(context), { status: 201 }));
