import { route } from "@/app/api/http/answer";
import { listCorrespondents } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listCorrespondents(context)));
