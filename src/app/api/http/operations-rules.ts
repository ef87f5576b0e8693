import * as shape from "@/core/api";
import { crud } from "./crud";
import type { Operation } from "./operation";

/** What is done with mail that comes in, and when it does. */
export const RULES: readonly Operation[] = [
  ...crud("/rules", "rule", shape.ruleShape, shape.newRule, shape.rulePatch),
  {
    method: "post",
    path: "/rules/{id}/except",
    summary: "A rule is for the senders of some messages no more",
    body: shape.exceptShape,
    answer: shape.ruleShape,
  },
  {
    method: "post",
    path: "/rules/trial",
    summary: "What a condition and a macro would have done to a piece of the past, against what was done by hand",
    body: shape.trialRequest,
    answer: shape.trialPiece,
  },
  {
    method: "get",
    path: "/rules/sieve",
    summary: "The rules that are on as a Sieve script, with what cannot be said there",
    answer: shape.sieveAnswer,
  },
  {
    method: "post",
    path: "/rules/sieve",
    summary: "Take a Sieve script in as rules, switched off, or say what that would come to",
    body: shape.sieveRequest,
    answer: shape.sieveTaken,
  },
  {
    method: "get",
    path: "/lists/{name}",
    summary: "Who is on a list that rules are for",
    answer: shape.listShape,
  },
  {
    method: "patch",
    path: "/lists/{name}",
    summary: "Add senders to a list that rules are for, or take them out",
    body: shape.listPatch,
    answer: shape.listShape,
  },
  {
    method: "get",
    path: "/found",
    summary: "What recurs by hand and might be a rule or a macro, with what speaks for it",
    answer: shape.foundShape,
  },
  {
    method: "post",
    path: "/found/decline",
    summary: "Offer something that recurs no more, or again",
    body: shape.declineRequest,
    status: 204,
  },
  {
    method: "get",
    path: "/hours",
    summary: "Hours in which mail is let in, and how much waits",
    answer: shape.hoursAnswer,
  },
  { method: "post", path: "/hours", summary: "New hours", body: shape.newHours, answer: shape.hoursShape, status: 201 },
  {
    method: "patch",
    path: "/hours/{id}",
    summary: "Change hours; what waits does so by the new ones",
    body: shape.hoursPatch,
    answer: shape.hoursShape,
  },
  { method: "delete", path: "/hours/{id}", summary: "Delete hours; what waits for them comes in", status: 204 },
  { method: "post", path: "/hours/open", summary: "Let in what waits, now", answer: shape.letInAnswer },
];
