import { promisify } from "node:util";
import { gzip } from "node:zlib";
import { route } from "@/app/api/http/answer";
import { number, numbers } from "@/app/api/http/read";
import { MOST_INDEX_ROWS, readIndex, readIndexSince, readTest, type Context } from "@/server/act";

/** Low, since a person waits for it: most of what can be saved is saved at once. */
const LEVEL = 2;

async function read(context: Context, query: URLSearchParams): Promise<Uint8Array> {
  const since = query.get("since");
  if (since !== null) return readIndexSince(context, number(since, "since", { least: 0 }));
  const limit = query.has("limit") ? Math.min(MOST_INDEX_ROWS, number(query.get("limit"), "limit")) : MOST_INDEX_ROWS;
  const before = query.has("before") ? number(query.get("before"), "before") : null;
  const ids = query.get("ids");
  const which = ids ? { ids: numbers(ids, "ids") } : { test: await readTest(context, query.get("narrow") ?? "") };
  return readIndex(context, which, limit, before);
}

/**
 * The mailbox's index in columns, newest part first; for the interface, so not in the API's description. Packed
 * as a file, not as a transfer encoding, which the web server between would undo.
 */
export const GET = route(async ({ context, query }) => {
  const packed = await promisify(gzip)(await read(context, query), { level: LEVEL });
  return new Response(packed as BodyInit, {
    headers: { "content-type": "application/gzip", "cache-control": "no-store" },
  });
});
