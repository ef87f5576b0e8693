import type { Scope } from "@/core/api";

/** What a program with a token has to be allowed for a request; what is not named here is for the person alone. */

/** Whatever they hold, it is mail, what was decided about it, and what it was decided with. */
const MAIL = [
  "agenda",
  "archive",
  "batches",
  "blocked",
  "calendars",
  "contacts",
  "correspondents",
  "decks",
  "drafts",
  "events",
  "export",
  "filing",
  "folders",
  "found",
  "groups",
  "guesses",
  "home",
  "hours",
  "identities",
  "import",
  "index",
  "jobs",
  "labels",
  "ledger",
  "lists",
  "macros",
  "markers",
  "messages",
  "narrowings",
  "outgoing",
  "pace",
  "packs",
  "passes",
  "practice",
  "rules",
  "runs",
  "senders",
  "settings",
  "simulator",
  "tasks",
  "templates",
  "words",
];
/** Read, but changed by the person alone: it holds what they come in with elsewhere. */
const READ_ONLY = ["accounts"];

/** What goes out to others, gives something out, or lets a rule send it later. */
const SENDING = [
  /^\/drafts\/[^/]+\/send$/,
  /^\/outgoing\//,
  /^\/senders\/leave$/,
  /^\/events\/[^/]+\/(invite|tell)$/,
  /^\/messages\/[^/]+\/invitation$/,
  /^\/ledger\/[^/]+\/redo$/,
  /^\/calendars\/[^/]+\/address$/,
  /^\/(macros|rules|templates|packs)(\/|$)/,
];

/** Sent, since it may name a million messages, and read all the same. */
const READ_BY_POST = ["/export"];

/** @param path behind /api/v1 @returns null for what no token allows */
export function scopeOf(method: string, path: string): Scope | null {
  const [, room = ""] = path.split("/");
  const isRead = method === "GET" || method === "HEAD" || READ_BY_POST.includes(path);
  if (READ_ONLY.includes(room)) return isRead ? "read" : null;
  if (!MAIL.includes(room)) return null;
  if (isRead) return "read";
  return SENDING.some((pattern) => pattern.test(path)) ? "send" : "decide";
}
