import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { PaceMacroShape, PaceReviewShape, PaceShape, PaceSourceShape } from "@/core/api";
import { dayText } from "@/core/pace";
import { get, Refused } from "../state/api";
import { useView } from "../state/store";
import { readBehind } from "../state/writes";
import type { Period, Span } from "./period";

export interface Asked {
  readonly period: Period;
  readonly span: Span;
  /** A folder; null for the inbox. */
  readonly place: number | null;
  readonly account: number | null;
  /** The day by which nothing is to be left, 2026-12-05; null for a week from now. */
  readonly until: string | null;
}

/** What is asked of the API, as a query. */
export function queryOf({ period, span, place, account, until }: Asked): string {
  const query = new URLSearchParams({ from: dayText(span.from), to: dayText(span.to), by: period.by });
  if (place !== null) query.set("place", String(place));
  if (account !== null) query.set("account", String(account));
  if (until !== null) query.set("until", until);
  return String(query);
}

const STILL_COUNTING = 409;
const ASK_AGAIN_MS = 5000;

/** What is counted for the first time is there before long, and shown then. */
const untilCounted = ({ state: { error } }: { readonly state: { readonly error: Error | null } }): number | false =>
  error instanceof Refused && error.problem.status === STILL_COUNTING && ASK_AGAIN_MS;

/** Figures, read anew with each entry of the ledger; while others are read, those before them stand. */
export function usePace(asked: Asked) {
  const all = queryOf(asked);
  // The day by which nothing is to be left says nothing of senders and macros.
  const plain = queryOf({ ...asked, until: null });
  const seq = useView((v) => v.confirmed[0]?.seq ?? 0);
  const read = <T>(what: string, query: string) => ({
    queryKey: ["pace", what, query, seq],
    queryFn: () => readBehind(() => get<T>(`/pace${what}?${query}`)),
    placeholderData: keepPreviousData,
    staleTime: 0,
    refetchInterval: untilCounted,
  });
  const pace = useQuery(read<PaceShape>("", all));
  const senders = useQuery(read<PaceSourceShape[]>("/senders", plain));
  const macros = useQuery(read<PaceMacroShape[]>("/macros", plain));
  return { pace, senders, macros };
}

/** A week looked back on. @param week a day of it; null for the one that is over */
export function useReview(week: string | null) {
  const seq = useView((v) => v.confirmed[0]?.seq ?? 0);
  return useQuery({
    queryKey: ["pace", "review", week, seq],
    queryFn: () => readBehind(() => get<PaceReviewShape>(`/pace/review${week === null ? "" : `?week=${week}`}`)),
    placeholderData: keepPreviousData,
    staleTime: 0,
    refetchInterval: untilCounted,
  });
}
