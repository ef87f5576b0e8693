import { route } from "@/app/api/http/answer";
import { invitePerson } from "@/server/act";

export const POST = route(async ({ context }) => Response.json(await invitePerson(context), { status: 201 }));
