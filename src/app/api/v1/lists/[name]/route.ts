import { route } from "@/app/api/http/answer";
import { body } from "@/app/api/http/read";
import { listPatch } from "@/core/api";
import { listName } from "@/core/macro";
import { changeList, readList, Refusal } from "@/server/act";

function nameIn({ name }: Readonly<Record<string, string>>): string {
  const read = listName.safeParse(name);
  if (!read.success)
    throw new Refusal(400, "Not the name of a list", "A list's name is one line of 1 to 80 characters.");
  return read.data;
}

export const GET = route(async ({ context, params }) => Response.json(await readList(context, nameIn(params))));
export const PATCH = route(async ({ context, params, request }) =>
  Response.json(await changeList(context, nameIn(params), await body(request, listPatch))),
);
