import { noteStream, type Event } from "@/server/act";
import { ending } from "./ending";

/** A line now and then shows that the connection lives, also to anything in between. */
const PING_EVERY_MS = 10_000;

/**
 * Events as a stream (HTML, server-sent events), until the window goes or this process is told to end.
 * @param eventsUntil the events, until a signal
 */
export function streamOf(request: Request, eventsUntil: (signal: AbortSignal) => AsyncGenerator<Event>): Response {
  const encoder = new TextEncoder();
  const stopped = new AbortController();
  const end = () => stopped.abort();
  /** The window has gone: there is nothing to be closed. */
  let isLeft = false;
  const leave = () => {
    isLeft = true;
    end();
  };
  request.signal.addEventListener("abort", leave);
  ending().addEventListener("abort", end);
  const stream = new ReadableStream({
    async start(controller) {
      const send = (text: string) => !stopped.signal.aborted && controller.enqueue(encoder.encode(text));
      send(": hello\n\n");
      const over = noteStream();
      const ping = setInterval(() => send(": still here\n\n"), PING_EVERY_MS);
      try {
        for await (const { type, seq, data } of eventsUntil(stopped.signal))
          send(`${seq === null ? "" : `id: ${seq}\n`}event: ${type}\ndata: ${JSON.stringify(data)}\n\n`);
      } catch {
        // The database went away: the window connects again from the last event it has.
      } finally {
        clearInterval(ping);
        over();
        ending().removeEventListener("abort", end);
        if (!isLeft) controller.close();
      }
    },
    cancel: leave,
  });
  return new Response(stream, {
    headers: {
      "content-type": "text/event-stream",
      "cache-control": "no-store, no-transform",
      "x-accel-buffering": "no",
      // Ended by a server that is told to end, it must not leave a connection that is kept open.
      connection: "close",
    },
  });
}
