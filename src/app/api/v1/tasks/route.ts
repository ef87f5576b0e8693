import { route } from "@/app/api/http/answer";
import { listTasks } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listTasks(context)));
