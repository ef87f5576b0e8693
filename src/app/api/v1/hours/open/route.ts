import { route } from "@/app/api/http/answer";
import { letIn } from "@/server/act";

export const POST = route(async ({ context }) => Response.json(await letIn(context)));
