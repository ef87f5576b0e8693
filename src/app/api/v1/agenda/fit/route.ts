import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { fitRequest } from "@/core/api";
import { proposeFit, writeFit } from "@/server/act";

/** A proposal for thousands of tasks is longer than most bodies. */
const MOST_BYTES = 2 * 1024 * 1024;

export const GET = route(async ({ context }) => Response.json(await proposeFit(context)));
export const POST = route(async ({ context, request }) => {
  await writeFit(context, await body(request, fitRequest, MOST_BYTES));
  return new Response(null, { status: 204 });
});
