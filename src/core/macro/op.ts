import type { Report, Task } from "../change";
import type { FolderId } from "../id";
import type { Draft } from "./facts";
import type { Fail, Running } from "./get";
import type { LetterPlan } from "./letter-plan";
import type { Question } from "./problem";

/** What goes into the calendar; which one, whoever applies the plan says. */
export interface PlannedEvent {
  readonly title: string;
  readonly note: string;
  /** ISO 8601; for a whole day "2026-12-05". */
  readonly at: string;
  /** null for a whole day */
  readonly minutes: number | null;
}

/** What a macro makes beside what it does to the message; whoever applies the plan gives it its id. */
export type Made =
  | { readonly kind: "copy"; readonly folder: FolderId; readonly draft: Draft }
  | { readonly kind: "task"; readonly task: Task }
  | { readonly kind: "event"; readonly event: PlannedEvent }
  | { readonly kind: "contact"; readonly address: string; readonly name: string }
  | { readonly kind: "blocked"; readonly address: string }
  /** The sender is on a list of a rule from now on. */
  | { readonly kind: "listed"; readonly list: string; readonly address: string }
  /** A list or sender is to be asked to send nothing more. */
  | { readonly kind: "leaving"; readonly of: string; readonly account: number }
  /** Mail of a list or sender stands aside from now on, or does no longer. */
  | { readonly kind: "aside"; readonly of: string; readonly on: boolean }
  | { readonly kind: "letter"; readonly letter: LetterPlan }
  /** Its service is to be told what it is. */
  | { readonly kind: "report"; readonly as: Report["as"] }
  /** The person takes it along as text. */
  | { readonly kind: "text" }
  | { readonly kind: "gone" };

/** What is done about a sender or a list, in a few words: "blocked: bo@larch.example". */
export function sourceText(
  made: Extract<Made, { kind: "blocked" | "listed" | "leaving" | "aside" | "report" }>,
): string {
  if (made.kind === "blocked") return `blocked: ${made.address.startsWith("@") ? "everybody " : ""}${made.address}`;
  if (made.kind === "listed") return `added to ${made.list}: ${made.address}`;
  if (made.kind === "leaving") return `asked to send nothing more: ${made.of}`;
  if (made.kind === "report") return `reported as ${made.as}`;
  return made.on ? `aside from now on: ${made.of}` : `aside no more: ${made.of}`;
}

export interface Run extends Running {
  readonly make: (made: Made) => void;
  /** Notes a question; the macro goes on as if it were answered, so that all of them are asked together. */
  readonly ask: (question: Question) => void;
  /**
   * The step behind which the macro goes on, while it has not come there: what stands before it was done before the
   * person was waited for. null once it has.
   */
  after: string | null;
}

/** How the macro goes on after a step, waits for the person there, or why it cannot for this message. */
export type Flow = "go-on" | "stop" | "only-when" | { readonly pause: string } | Fail;
export type Op = (run: Run) => Flow;
