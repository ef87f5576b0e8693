import { openRoute } from "@/app/api/http/answer";
import { readSignIn } from "@/server/act";

/** Answers only when the database does. */
export const GET = openRoute(async ({ from }) => {
  await readSignIn(from, null);
  return Response.json({ ok: true });
});
