import { route } from "@/app/api/http/answer";
import { body, checked } from "@/app/api/http/read";
import { passPatch, uuidShape } from "@/core/api";
import { changePass, deletePass, readPass } from "@/server/act";

const LONGEST_BODY = 2 * 1024 * 1024;

export const GET = route(async ({ context, params }) =>
  Response.json(await readPass(context, checked(params.id, uuidShape))),
);
export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changePass(context, checked(params.id, uuidShape), await body(request, passPatch, LONGEST_BODY))),
);
export const DELETE = route(async ({ context, params }) => {
  await deletePass(context, checked(params.id, uuidShape));
  return new Response(null, { status: 204 });
});
