import { route } from "@/app/api/http/answer";
import { body, number, rangeOf } from "@/app/api/http/read";
import { newEvent } from "@/core/api";
import { createEvent, eventsFor, eventsIn } from "@/server/act";

/** A line now and then shows that the connection lives, also to anything in between. */
const PING_EVERY_MS = 10_000;

/** With a range, what calendars hold in it; without one, the stream of what happens. */
export const GET = route(async ({ context, request, query }) => {
  if (query.has("from")) return Response.json(await eventsIn(context, rangeOf(query)));
  const after = number(request.headers.get("last-event-id") ?? query.get("after") ?? "0", "after", { least: 0 });
  const encoder = new TextEncoder();
  const stopped = new AbortController();
  request.signal.addEventListener("abort", () => stopped.abort());
  const stream = new ReadableStream({
    async start(controller) {
      const send = (text: string) => !stopped.signal.aborted && controller.enqueue(encoder.encode(text));
      send(": hello\n\n");
      const ping = setInterval(() => send(": still here\n\n"), PING_EVERY_MS);
      try {
        for await (const { type, seq, data } of eventsFor(context, after, stopped.signal))
          send(`${seq === null ? "" : `id: ${seq}\n`}event: ${type}\ndata: ${JSON.stringify(data)}\n\n`);
      } catch {
        // The database went away: the window connects again from the last event it has.
      } finally {
        clearInterval(ping);
        if (!stopped.signal.aborted) controller.close();
      }
    },
    cancel: () => stopped.abort(),
  });
  return new Response(stream, {
    headers: {
      "content-type": "text/event-stream",
      "cache-control": "no-store, no-transform",
      "x-accel-buffering": "no",
    },
  });
});

export const POST = route(async ({ context, request }) =>
  Response.json(await createEvent(context, await body(request, newEvent)), { status: 201 }),
);
