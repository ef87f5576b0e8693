import { download, route } from "@/app/api/http/answer";
import { number, textOf } from "@/app/api/http/read";
import { exportCards, importCards, MOST_CARD_BYTES } from "@/server/act";

export const GET = route(async ({ context, query }) => {
  const version = number(query.get("version") ?? "4", "version", { least: 3, most: 4 }) as 3 | 4;
  const text = await exportCards(context, version);
  return download(new TextEncoder().encode(text), "text/vcard", "contacts.vcf");
});

export const POST = route(async ({ context, request }) =>
  Response.json(await importCards(context, await textOf(request, MOST_CARD_BYTES))),
);
