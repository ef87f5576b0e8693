import { route } from "@/app/api/http/answer";
import { importFile } from "@/server/act";

export const POST = route(async ({ context, request, query }) => {
  const name = query.get("name") ?? "upload";
  const job = await importFile(
    context,
    name,
    query.get("folder") ?? "Inbox",
    request.body as AsyncIterable<Uint8Array> | null,
    query.get("rules") === "true",
  );
  return Response.json({ job }, { status: 202, headers: { location: `/api/v1/jobs/${job}` } });
});
