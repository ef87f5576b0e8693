import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { simulatorPatch } from "@/core/api";
import { changeSimulator, readSimulator } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await readSimulator(context)));
export const PATCH = route(async ({ context, request }) =>
  Response.json(await changeSimulator(context, await body(request, simulatorPatch))),
);
