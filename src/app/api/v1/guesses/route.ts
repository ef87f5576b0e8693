import { route } from "@/app/api/http/answer";
import { numbers } from "@/app/api/http/read";
import { readGuesses } from "@/server/act";

export const GET = route(async ({ context, request }) => {
  const ids = numbers(new URL(request.url).searchParams.get("ids") ?? "", "ids");
  return Response.json(await readGuesses(context, ids, new Date()));
});
