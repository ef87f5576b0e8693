import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { newPass } from "@/core/api";
import { createPass, listPasses } from "@/server/act";

/** A hundred thousand ids. */
const LONGEST_BODY = 2 * 1024 * 1024;

export const GET = route(async ({ context }) => Response.json(await listPasses(context)));
export const POST = route(async ({ context, request }) =>
  Response.json(await createPass(context, await body(request, newPass, LONGEST_BODY)), { status: 201 }),
);
