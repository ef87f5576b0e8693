import { route } from "@/app/api/http/answer";
import { dayOf } from "@/app/api/http/pace";
import { readReview } from "@/server/act";

export const GET = route(async ({ context, query }) => Response.json(await readReview(context, dayOf(query, "week"))));
