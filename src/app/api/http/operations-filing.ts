import * as shape from "@/core/api";
import type { Operation } from "./operation";

/** Where mail belongs, and who fills the mailbox. */
export const FILING: readonly Operation[] = [
  {
    method: "get",
    path: "/guesses",
    summary: "Where messages probably belong",
    query: { ids: "of messages, with commas between; at most 500" },
    answer: shape.guessesAnswer,
  },
  {
    method: "get",
    path: "/senders",
    summary: "Lists and senders that write often, by what would be gained",
    answer: shape.senderShape.array(),
  },
  {
    method: "post",
    path: "/senders/leave",
    summary: "Ask lists and senders to send nothing more",
    body: shape.leaveRequest,
    answer: shape.leaveAnswer,
  },
  {
    method: "post",
    path: "/senders/block",
    summary: "Block several senders at once",
    body: shape.blockRequest,
    status: 204,
  },
  {
    method: "post",
    path: "/senders/aside",
    summary: "Let mail of lists and senders stand aside from now on, or no more",
    body: shape.asideRequest,
    status: 204,
  },
  { method: "get", path: "/filing", summary: "What filing has taught, by folder", answer: shape.filingShape },
  { method: "get", path: "/filing/export", summary: "All of what filing has taught", media: "application/json" },
  {
    method: "post",
    path: "/filing/reset",
    summary: "Forget what filing has taught",
    body: shape.filingReset,
    status: 204,
  },
];
