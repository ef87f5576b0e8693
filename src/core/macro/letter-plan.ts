import type { FolderId } from "../id";
import type { Doc, LetterKind } from "../letter";

/** Where a letter goes when it is written: out by itself, before the person to be finished, or aside as owed. */
export type Goes = "outbox" | "draft" | "owed";

/** A letter a macro writes because of a message; to whom an answer goes only its source says. */
export interface LetterPlan {
  readonly how: LetterKind;
  readonly goes: Goes;
  /** Where the step stands: a draft's run goes on behind it. */
  readonly at: string;
  /** Whom it goes to, as written; null for answers. */
  readonly to: string | null;
  /** From the template; null without one. */
  readonly filled: { readonly template: string; readonly subject: string; readonly body: Doc } | null;
  readonly prefix: string;
  readonly suffix: string;
  /** When it is sent, ISO 8601; null for at once. */
  readonly sendAt: string | null;
  /** Where the sent copy goes; null for Sent. */
  readonly sent: FolderId | null;
  /** Whether Sent keeps one beside it. */
  readonly sentToo: boolean;
}

const GOES: Record<Goes, string> = { outbox: "sends", draft: "opens", owed: "puts in Owed" };
const WHAT: Record<LetterKind, string> = {
  new: "a new message",
  reply: "a reply",
  "reply all": "a reply to all",
  forward: "a forward",
};

/** What a letter is in a few words: "sends a reply: Your booking". */
export function letterPlanText({ how, goes, to, filled }: LetterPlan): string {
  const subject = filled && filled.subject !== "" ? `: ${filled.subject}` : filled ? `: ${filled.template}` : "";
  return `${GOES[goes]} ${WHAT[how]}${to === null ? "" : ` to ${to}`}${subject}`;
}
