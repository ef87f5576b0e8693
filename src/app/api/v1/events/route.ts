import { askingOf, route } from "@/app/api/http/answer";
import { body, number, rangeOf } from "@/app/api/http/read";
import { streamOf } from "@/app/api/http/stream";
import { newEvent } from "@/core/api";
import { createEvent, eventsFor, eventsIn } from "@/server/act";

/** With a range, what calendars hold in it; without one, the stream of what happens. */
export const GET = route(async ({ context, request, query }) => {
  if (query.has("from")) return Response.json(await eventsIn(context, rangeOf(query)));
  const after = number(request.headers.get("last-event-id") ?? query.get("after") ?? "0", "after", { least: 0 });
  const isIn = async () => (await askingOf(context.db, request)) !== null;
  return streamOf(request, (signal) => eventsFor(context, after, signal, isIn));
});

export const POST = route(async ({ context, request }) =>
  Response.json(await createEvent(context, await body(request, newEvent)), { status: 201 }),
);
