import { route } from "@/app/api/http/answer";
import { dropPasskey } from "@/server/act";

export const DELETE = route(async ({ context, params }) => {
  await dropPasskey(context, params.id!);
  return new Response(null, { status: 204 });
});
