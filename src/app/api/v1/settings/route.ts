import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { settingsPatch } from "@/core/api";
import { changeSettings, readSettings } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await readSettings(context)));
export const PATCH = route(async ({ context, request }) =>
  Response.json(await changeSettings(context, await body(request, settingsPatch))),
);
