import { openRoute } from "@/app/api/http/answer";
import { readyOrWhy } from "@/app/api/http/ending";
import { problem } from "@/app/api/http/problem";

/** For what stands before several processes: not while the database is older, nor once this one was told to end. */
export const GET = openRoute(async () => {
  const why = await readyOrWhy();
  return why === null ? Response.json({ ok: true }) : problem(503, "Not ready", why);
});
