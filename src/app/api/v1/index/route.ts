import { number, route } from "@/app/api/http/answer";
import { readPlace, writePlace } from "@/core/api";
import { MOST_INDEX_ROWS, readIndex, readTest, Refusal } from "@/server/act";

/** The mailbox's index in columns, newest part first; for the interface, so not in the API's description. */
export const GET = route(async ({ context, query }) => {
  const limit = query.has("limit") ? Math.min(MOST_INDEX_ROWS, number(query.get("limit"), "limit")) : MOST_INDEX_ROWS;
  const before = query.get("before");
  const place = before === null ? null : readPlace(before);
  if (before !== null && !place) throw new Refusal(400, "Not a place", "Give back what the last part said.");
  const ids = query.get("ids");
  const which = ids
    ? { ids: ids.split(",").map((id) => number(id, "ids")) }
    : { test: await readTest(context, query.get("narrow") ?? "") };
  const part = await readIndex(context, which, limit, place);
  return new Response(part.bytes as BodyInit, {
    headers: {
      "content-type": "application/octet-stream",
      "cache-control": "no-store",
      "x-tachyne-seq": String(part.seq),
      ...(part.next ? { "x-tachyne-next": writePlace(part.next) } : {}),
    },
  });
});
