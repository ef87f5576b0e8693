import { route } from "@/app/api/http/answer";
import { bytesOf, number } from "@/app/api/http/read";
import { addDraftFile, addDraftMessage, MOST_FILE_BYTES } from "@/server/act";

export const POST = route(async ({ context, params, request, query }) => {
  const id = number(params.id, "id");
  const message = query.get("message");
  if (message !== null)
    return Response.json(await addDraftMessage(context, id, number(message, "message")), { status: 201 });
  const data = await bytesOf(request, MOST_FILE_BYTES);
  const type = request.headers.get("content-type") ?? "application/octet-stream";
  return Response.json(await addDraftFile(context, id, query.get("name") ?? "file", type, data), { status: 201 });
});
