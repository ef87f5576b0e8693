import { route } from "@/app/api/http/answer";
import { shortNumber } from "@/app/api/http/read";
import { listRemoteFolders } from "@/server/act";

export const GET = route(async ({ context, params }) =>
  Response.json(await listRemoteFolders(context, shortNumber(params.id))),
);
