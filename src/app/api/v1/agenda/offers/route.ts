import { route } from "@/app/api/http/answer";
import { number } from "@/app/api/http/read";
import { offerTimes } from "@/server/act";

export const GET = route(async ({ context, query }) => {
  const minutes = number(query.get("minutes") ?? "60", "minutes", { least: 5, most: 1440 });
  const count = number(query.get("count") ?? "3", "count", { most: 10 });
  return Response.json(await offerTimes(context, minutes, count));
});
