import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { taskPatch } from "@/core/api";
import { changeTask, deleteTask } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeTask(context, number(params.id, "id"), await body(request, taskPatch))),
);
export const DELETE = route(async ({ context, params }) => {
  await deleteTask(context, number(params.id, "id"));
  return new Response(null, { status: 204 });
});
