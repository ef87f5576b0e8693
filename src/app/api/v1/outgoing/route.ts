import { route } from "@/app/api/http/answer";
import { listOutgoing } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listOutgoing(context)));
