import { route } from "@/app/api/http/answer";
import { body, number } from "@/app/api/http/read";
import { tellRequest } from "@/core/api";
import { tellPeople } from "@/server/act";

export const POST = route(async ({ context, params, request }) =>
  Response.json(await tellPeople(context, number(params.id, "id"), await body(request, tellRequest))),
);
