import { body, route } from "@/app/api/http/answer";
import { runRequest } from "@/core/api";
import { dryRun, runMacro } from "@/server/act";

export const POST = route(async ({ context, request }) => {
  const asked = await body(request, runRequest);
  return Response.json(await (asked.dry ? dryRun(context, asked) : runMacro(context, asked)));
});
