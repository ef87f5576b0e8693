import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { sieveRequest } from "@/core/api";
import { exportSieve, importSieve } from "@/server/act";

/** A script in JSON, with its line ends escaped. */
const LARGEST_BODY = 2 * 1024 * 1024;

export const GET = route(async ({ context }) => Response.json(await exportSieve(context)));
export const POST = route(async ({ context, request }) =>
  Response.json(await importSieve(context, await body(request, sieveRequest, LARGEST_BODY))),
);
