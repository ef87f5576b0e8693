import { route } from "@/app/api/http/answer";

/** Answers only when the database does: the route has asked it who is there. */
export const GET = route(async () => Response.json({ ok: true }));
