import { download, route } from "@/app/api/http/answer";
import { number } from "@/app/api/http/read";
import { readRaw } from "@/server/act";

export const GET = route(async ({ context, params }) => {
  const id = number(params.id, "id");
  return download(await readRaw(context, id), "message/rfc822", `message-${id}.eml`);
});
