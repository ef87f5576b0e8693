import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { newTask } from "@/core/api";
import { createTask, listTasks } from "@/server/act";

export const GET = route(async ({ context }) => Response.json(await listTasks(context)));
export const POST = route(async ({ context, request }) =>
  Response.json(await createTask(context, await body(request, newTask)), { status: 201 }),
);
