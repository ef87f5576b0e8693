import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { taskPatch } from "@/core/api";
import { changeTask } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeTask(context, number(params.id, "id"), await body(request, taskPatch))),
);
