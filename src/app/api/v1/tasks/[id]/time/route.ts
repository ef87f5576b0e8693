import { route } from "@/app/api/http/answer";
import { bodyOrNothing, number } from "@/app/api/http/read";
import { taskTime } from "@/core/api";
import { giveTime } from "@/server/act";

export const POST = route(async ({ context, params, request }) =>
  Response.json(await giveTime(context, number(params.id, "id"), await bodyOrNothing(request, taskTime)), {
    status: 201,
  }),
);
