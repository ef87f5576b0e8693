import { route } from "@/app/api/http/answer";
import { openTasksOf } from "@/server/act";

/**
 * The messages of open tasks and when these are due, in pairs of 64-bit floats, NaN for no date; for the interface,
 * so not in the API's description.
 */
export const GET = route(async ({ context }) => {
  const pairs = [...(await openTasksOf(context))].flatMap(([message, times]) => times.flatMap((ms) => [message, ms]));
  return new Response(Float64Array.from(pairs).buffer as ArrayBuffer, {
    headers: { "content-type": "application/octet-stream", "cache-control": "no-store" },
  });
});
