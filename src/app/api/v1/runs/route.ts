import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { runRequest } from "@/core/api";
import { dryRun, runMacro } from "@/server/act";

/** A million ids with their commas, and a macro. */
const LONGEST_RUN = 12 * 1024 * 1024;

export const POST = route(async ({ context, request }) => {
  const asked = await body(request, runRequest, LONGEST_RUN);
  return Response.json(await (asked.dry ? dryRun(context, asked) : runMacro(context, asked)));
});
