import { number, route } from "@/app/api/http/answer";
import { messageId } from "@/core/id";
import { readLedger } from "@/server/act";

const MOST_ENTRIES = 500;
const ENTRIES_UNASKED = 50;

export const GET = route(async ({ context, query }) => {
  const asked = (name: string) => (query.has(name) ? number(query.get(name), name) : undefined);
  const message = asked("message");
  return Response.json(
    await readLedger(context, {
      limit: Math.min(MOST_ENTRIES, asked("limit") ?? ENTRIES_UNASKED),
      before: asked("before"),
      macro: asked("macro"),
      message: message === undefined ? undefined : messageId(message),
    }),
  );
});
