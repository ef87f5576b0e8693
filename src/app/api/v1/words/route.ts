import { route } from "@/app/api/http/answer";
import { wordsWith } from "@/server/act";

/** Ids of the messages that hold a needle, as 64-bit floats; for the interface, so not in the API's description. */
export const GET = route(async ({ context, query }) => {
  const ids = await wordsWith(context, query.get("needle") ?? "");
  return new Response(Float64Array.from(ids).buffer as ArrayBuffer, {
    headers: { "content-type": "application/octet-stream", "cache-control": "no-store" },
  });
});
