import { download, route } from "@/app/api/http/answer";
import { number, shortNumber } from "@/app/api/http/read";
import { readDraftFile, removeDraftFile } from "@/server/act";

export const GET = route(async ({ context, params }) => {
  const { data, type, name } = await readDraftFile(context, number(params.id, "id"), shortNumber(params.file));
  return download(data, type, name);
});
export const DELETE = route(async ({ context, params }) => {
  const { data, type, name } = await removeDraftFile(context, number(params.id, "id"), shortNumber(params.file));
  return download(data, type, name);
});
