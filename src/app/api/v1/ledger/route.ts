import { route } from "@/app/api/http/answer";
import { number } from "@/app/api/http/read";
import { LARGEST_INT } from "@/core/api";
import { messageId } from "@/core/id";
import { readLedger } from "@/server/act";

const MOST_ENTRIES = 500;
const ENTRIES_UNASKED = 50;

export const GET = route(async ({ context, query }) => {
  const asked = (name: string, most?: number) =>
    query.has(name) ? number(query.get(name), name, most === undefined ? {} : { most }) : undefined;
  const message = asked("message");
  return Response.json(
    await readLedger(context, {
      limit: Math.min(MOST_ENTRIES, asked("limit") ?? ENTRIES_UNASKED),
      others: asked("others", MOST_ENTRIES),
      before: asked("before"),
      macro: asked("macro", LARGEST_INT),
      message: message === undefined ? undefined : messageId(message),
    }),
  );
});
