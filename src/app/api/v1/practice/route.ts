import { route } from "@/app/api/http/answer";
import { beginPractice, endPractice } from "@/server/act";

export const POST = route(async ({ context }) => Response.json(await beginPractice(context), { status: 201 }));
export const DELETE = route(async ({ context }) => {
  await endPractice(context);
  return new Response(null, { status: 204 });
});
