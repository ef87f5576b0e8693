import { Readable } from "node:stream";
import { download, route } from "@/app/api/http/answer";
import { checked, numbers, textOf } from "@/app/api/http/read";
import { formatShape } from "@/core/api";
import { messageId } from "@/core/id";
import { exportMessages, readTest } from "@/server/act";

/** A million ids. */
const LONGEST_FORM = 10 * 1024 * 1024;

export const GET = route(async ({ context, query }) => {
  const format = checked(query.get("format") ?? "mbox", formatShape);
  const ids = query.get("ids");
  const which = ids ? numbers(ids, "ids").map(messageId) : await readTest(context, query.get("narrow") ?? "");
  const stream = Readable.toWeb(await exportMessages(context, which, format)) as ReadableStream;
  return download(stream, format === "mbox" ? "application/mbox" : "application/zip", `tachyne.${format}`);
});

/** The same for a selection too long for an address: the ids come as a form's field. */
export const POST = route(async ({ context, request }) => {
  const form = new URLSearchParams(await textOf(request, LONGEST_FORM));
  const format = checked(form.get("format") ?? "mbox", formatShape);
  const ids = numbers(form.get("ids") ?? "", "ids").map(messageId);
  const stream = Readable.toWeb(await exportMessages(context, ids, format)) as ReadableStream;
  return download(stream, format === "mbox" ? "application/mbox" : "application/zip", `tachyne.${format}`);
});
