import { route } from "@/app/api/http/answer";
import { paceQuery } from "@/app/api/http/pace";
import { PACE_FIGURES } from "@/core/api";
import { paceCsv, Refusal } from "@/server/act";

export const GET = route(async ({ context, query }) => {
  const figure = PACE_FIGURES.find((one) => one === query.get("figure"));
  if (!figure) throw new Refusal(400, "No such figure", `"figure" is one of ${PACE_FIGURES.join(", ")}.`);
  return new Response(await paceCsv(context, figure, paceQuery(query)), {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": `attachment; filename="${figure}-${query.get("from")}-${query.get("to")}.csv"`,
    },
  });
});
