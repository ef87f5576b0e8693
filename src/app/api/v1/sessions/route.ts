import { route } from "@/app/api/http/answer";
import { endOtherSessions, mustProve, readSignedIn } from "@/server/act";

export const GET = route(async ({ context, session }) =>
  Response.json(await readSignedIn(context, session, await mustProve(context, session))),
);
export const DELETE = route(async ({ context, session }) =>
  Response.json({ ended: await endOtherSessions(context, session) }),
);
