import { route } from "@/app/api/http/answer";
import { body, shortNumber } from "@/app/api/http/read";
import { accountPatch } from "@/core/api";
import { changeAccount, deleteAccount } from "@/server/act";

export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeAccount(context, shortNumber(params.id), await body(request, accountPatch))),
);
export const DELETE = route(async ({ context, params, query }) => {
  await deleteAccount(context, shortNumber(params.id), query.get("mail") === "trash" ? "trash" : "keep");
  return new Response(null, { status: 204 });
});
