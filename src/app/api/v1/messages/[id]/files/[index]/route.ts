import { download, route } from "@/app/api/http/answer";
import { number } from "@/app/api/http/read";
import { readAttachment } from "@/server/act";

export const GET = route(async ({ context, params }) => {
  const file = await readAttachment(context, number(params.id, "id"), number(params.index, "index", { least: 0 }));
  return download(file.bytes, file.type, file.name);
});
