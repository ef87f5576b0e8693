import * as shape from "@/core/api";
import type { Operation } from "./operation";

const days = {
  from: "the first day, 2026-11-01",
  to: "the last one",
  place: "id of a folder; the inbox where it is left out",
  account: "id; all where it is left out",
};

/** What comes, what is decided, what waits, and what it takes. */
export const PACE: readonly Operation[] = [
  {
    method: "get",
    path: "/pace",
    summary: "Figures of a place: flow, backlog by age, a usual week, waits, passes, and how long it will take",
    query: { ...days, by: "hour, day or week", until: "the day by which nothing is to be left" },
    answer: shape.paceShape,
  },
  {
    method: "get",
    path: "/pace/senders",
    summary: "Who fills a place, and how long theirs waits",
    query: days,
    answer: shape.paceSourceShape.array(),
  },
  {
    method: "get",
    path: "/pace/macros",
    summary: "What was run, and what that has saved",
    query: days,
    answer: shape.paceMacroShape.array(),
  },
  {
    method: "get",
    path: "/pace/review",
    summary: "A week looked back on",
    query: { week: "a day of it; last week where it is left out" },
    answer: shape.paceReviewShape,
  },
  {
    method: "get",
    path: "/pace/csv",
    summary: "A figure as comma-separated values (RFC 4180)",
    query: { ...days, by: "hour, day or week", figure: "flow, backlog, week, senders or macros" },
    media: "text/csv",
  },
];
