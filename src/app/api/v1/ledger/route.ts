import { number, route } from "@/app/api/http/answer";
import { readLedger } from "@/server/act";

const MOST_ENTRIES = 500;
const ENTRIES_UNASKED = 50;

export const GET = route(async ({ context, query }) => {
  const limit = query.has("limit") ? Math.min(MOST_ENTRIES, number(query.get("limit"), "limit")) : ENTRIES_UNASKED;
  const before = query.has("before") ? number(query.get("before"), "before") : undefined;
  return Response.json(await readLedger(context, limit, before));
});
