import { Readable } from "node:stream";
import { download, route } from "@/app/api/http/answer";
import { exportAll } from "@/server/act";

export const GET = route(async ({ context }) => {
  const now = new Date();
  const stream = Readable.toWeb(await exportAll(context, now)) as ReadableStream;
  return download(stream, "application/zip", `tachyne-${now.toISOString().slice(0, 10)}.zip`);
});
