import { download, route } from "@/app/api/http/answer";
import { body, numbers } from "@/app/api/http/read";
import { packRequest } from "@/core/api";
import { cut } from "@/core/text";
import { exportPack, importPack } from "@/server/act";

const LONGEST_NAME = 80;
const LARGEST_PACK = 4 * 1024 * 1024;

export const GET = route(async ({ context, query }) => {
  const ids = query.get("macros") ? numbers(query.get("macros")!, "macros") : [];
  const name = cut(query.get("name")?.trim() || "Macros", LONGEST_NAME);
  const pack = await exportPack(context, name, ids);
  const text = `${JSON.stringify(pack, null, 2)}\n`;
  return download(new TextEncoder().encode(text), "application/json", `${name}.json`);
});

export const POST = route(async ({ context, request }) =>
  Response.json(await importPack(context, await body(request, packRequest, LARGEST_PACK))),
);
