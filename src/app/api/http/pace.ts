import { LARGEST_INT, PACE_BY } from "@/core/api";
import { readDay, type Day } from "@/core/pace";
import { Refusal, type PaceQuery } from "@/server/act";
import { number } from "./read";

/** Six years: more than any screen can tell apart. */
const MOST_DAYS = 2200;

/** A day in a query, 2026-11-28; null where it is left out. @throws Refusal (400) */
export function dayOf(query: URLSearchParams, name: string): Day | null {
  const text = query.get(name);
  if (text === null) return null;
  const day = readDay(text);
  if (day === null) throw new Refusal(400, "No such day", `"${name}" must be a day such as 2026-11-28.`);
  return day;
}

/** What figures are asked for. @throws Refusal (400) */
export function paceQuery(query: URLSearchParams): PaceQuery {
  const [from, to] = [dayOf(query, "from"), dayOf(query, "to")];
  if (from === null || to === null || from > to || to - from >= MOST_DAYS)
    throw new Refusal(
      400,
      "No such time",
      `Say "from" and "to" as days, at most ${MOST_DAYS} of them, the first one first.`,
    );
  const by = PACE_BY.find((one) => one === (query.get("by") ?? "day"));
  if (!by) throw new Refusal(400, "No such step", `"by" is one of ${PACE_BY.join(", ")}.`);
  const id = (name: string, least: number) =>
    query.get(name) === null ? null : number(query.get(name), name, { least, most: LARGEST_INT });
  return { from, to, by, place: id("place", 1), account: id("account", 0), until: dayOf(query, "until") };
}
