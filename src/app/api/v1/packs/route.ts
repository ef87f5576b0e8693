import { body, download, number, route } from "@/app/api/http/answer";
import { packRequest } from "@/core/api";
import { exportPack, importPack } from "@/server/act";

const LONGEST_NAME = 80;

export const GET = route(async ({ context, query }) => {
  const ids = (query.get("macros") ?? "").split(",").filter(Boolean);
  const name = query.get("name")?.trim().slice(0, LONGEST_NAME) || "Macros";
  const pack = await exportPack(
    context,
    name,
    ids.map((id) => number(id, "macros")),
  );
  const text = `${JSON.stringify(pack, null, 2)}\n`;
  return download(new TextEncoder().encode(text), "application/json", `${name}.json`);
});

export const POST = route(async ({ context, request }) =>
  Response.json(await importPack(context, await body(request, packRequest))),
);
