import { route } from "@/app/api/http/answer";
import { unblockSender } from "@/server/act";

export const DELETE = route(async ({ context, params }) => {
  await unblockSender(context, params.address ?? "");
  return new Response(null, { status: 204 });
});
