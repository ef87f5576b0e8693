import { route } from "@/app/api/http/answer";
import { checked, number } from "@/app/api/http/read";
import { listMessages, MOST_ROWS } from "@/server/act";
import { orderShape } from "@/core/api";

const ROWS_UNASKED = 100;

export const GET = route(async ({ context, query }) =>
  Response.json(
    await listMessages(context, {
      narrow: query.get("narrow") ?? "",
      order: checked(query.get("order") ?? "oldest", orderShape),
      limit: query.has("limit") ? Math.min(MOST_ROWS, number(query.get("limit"), "limit")) : ROWS_UNASKED,
      after: query.get("after"),
    }),
  ),
);
