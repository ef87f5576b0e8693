import { Readable } from "node:stream";
import { checked, download, number, route } from "@/app/api/http/answer";
import { formatShape } from "@/core/api";
import { messageId } from "@/core/id";
import { exportMessages, readTest } from "@/server/act";

export const GET = route(async ({ context, query }) => {
  const format = checked(query.get("format") ?? "mbox", formatShape);
  const ids = query.get("ids");
  const which = ids
    ? ids.split(",").map((id) => messageId(number(id, "ids")))
    : await readTest(context, query.get("narrow") ?? "");
  const stream = Readable.toWeb(await exportMessages(context, which, format)) as ReadableStream;
  return download(stream, format === "mbox" ? "application/mbox" : "application/zip", `tachyne.${format}`);
});

/** The same for a selection too long for an address: the ids come as a form's field. */
export const POST = route(async ({ context, request }) => {
  const form = await request.formData();
  const format = checked(form.get("format") ?? "mbox", formatShape);
  const ids = String(form.get("ids") ?? "")
    .split(",")
    .map((id) => messageId(number(id, "ids")));
  const stream = Readable.toWeb(await exportMessages(context, ids, format)) as ReadableStream;
  return download(stream, format === "mbox" ? "application/mbox" : "application/zip", `tachyne.${format}`);
});
