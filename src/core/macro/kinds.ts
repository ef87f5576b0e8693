import { repeatText } from "../agenda";
import type { Colour } from "../place";
import { goesOf, type LetterStep, type Step, type StepKind } from "./step";
import { valueText, type Value } from "./value";

export type Family = "place" | "mark" | "answer" | "time" | "people" | "flow";

export interface StepFacts {
  readonly family: Family;
  readonly colour: Colour;
  readonly title: string;
  /**
   * How a run takes it back: by the inverse edits; by them until what it asks for has gone out; not at all; or not
   * because it does nothing itself.
   */
  readonly undo: "inverse" | "until-gone" | "none" | "nothing-to-undo";
  /** Whether a run with it asks first, whatever the macro's settings say. */
  readonly confirm: boolean;
  /** What a new step of this kind starts as. */
  readonly fresh: Step;
}

const facts = (
  family: Family,
  colour: Colour,
  title: string,
  fresh: Step,
  more: Partial<Pick<StepFacts, "undo" | "confirm">> = {},
): StepFacts => ({ family, colour, title, fresh, undo: "inverse", confirm: false, ...more });

const ASKS = { undo: "until-gone" } as const;
const FLOW = { undo: "nothing-to-undo" } as const;

/** Everything there is to know about a kind of step. A new kind does not compile before it is described here. */
export const STEP_KINDS = {
  move: facts("place", "spruce", "Move", { do: "move", to: { ask: "folder" } }),
  copy: facts("place", "spruce", "Copy", { do: "copy", to: { ask: "folder" } }),
  archive: facts("place", "spruce", "Archive", { do: "archive" }),
  trash: facts("place", "brick", "Trash", { do: "trash" }),
  junk: facts("place", "brick", "Junk", { do: "junk" }),
  "not junk": facts("place", "spruce", "Not junk", { do: "not junk" }),
  aside: facts("place", "slate", "Aside from now on", { do: "aside" }),
  "not aside": facts("place", "slate", "Aside no more", { do: "not aside" }),
  "delete for good": facts(
    "place",
    "brick",
    "Delete for good",
    { do: "delete for good" },
    { undo: "none", confirm: true },
  ),
  read: facts("mark", "slate", "Mark read", { do: "read" }),
  unread: facts("mark", "slate", "Mark unread", { do: "unread" }),
  "toggle read": facts("mark", "slate", "Toggle read", { do: "toggle read" }),
  flag: facts("mark", "amber", "Flag", { do: "flag", due: "tomorrow 9" }),
  unflag: facts("mark", "amber", "Unflag", { do: "unflag" }),
  pin: facts("mark", "slate", "Pin", { do: "pin" }),
  unpin: facts("mark", "slate", "Unpin", { do: "unpin" }),
  label: facts("mark", "plum", "Label", { do: "label", add: { ask: "label" } }),
  marker: facts("mark", "plum", "Marker", { do: "marker", next: true }),
  owe: facts("answer", "amber", "Owe a reply", { do: "owe" }),
  "owe no more": facts("answer", "amber", "Owe no more", { do: "owe no more" }),
  note: facts("mark", "slate", "Note", { do: "note", text: { ask: "text" } }),
  defer: facts("time", "slate", "Defer", { do: "defer", until: "tomorrow 9" }),
  "end deferral": facts("time", "slate", "End deferral", { do: "end deferral" }),
  "make task": facts("time", "slate", "Make task", { do: "make task", title: { take: "subject" } }),
  "block time": facts("time", "slate", "Block time", { do: "block time", at: "tomorrow 9", minutes: 30 }),
  "make event": facts("time", "slate", "Event from this message", { do: "make event" }),
  "block sender": facts("people", "brick", "Block sender", { do: "block sender" }),
  unsubscribe: facts("people", "brick", "Unsubscribe", { do: "unsubscribe" }, ASKS),
  report: facts("people", "brick", "Report", { do: "report", as: "junk" }, ASKS),
  "add contact": facts("people", "spruce", "Add contact", { do: "add contact" }),
  "copy as text": facts("people", "slate", "Copy as text", { do: "copy as text" }, FLOW),
  "only when": facts("flow", "slate", "Only when", { do: "only when", narrow: "unread" }, FLOW),
  if: facts("flow", "slate", "If … else", { do: "if", narrow: "unread", then: [], else: [] }, FLOW),
  ask: facts("flow", "plum", "Ask", { do: "ask", name: "answer", kind: "yes/no" }, FLOW),
  "run macro": facts("flow", "spruce", "Run macro", { do: "run macro", macro: "Archive" }, FLOW),
  stop: facts("flow", "brick", "Stop", { do: "stop" }, FLOW),
  reply: facts("answer", "spruce", "Reply", { do: "reply" }),
  "reply all": facts("answer", "spruce", "Reply all", { do: "reply all" }),
  forward: facts("answer", "spruce", "Forward", { do: "forward", to: { ask: "text" } }),
  "new message": facts("answer", "spruce", "New message", { do: "new message", to: { ask: "text" } }),
  "await an answer": facts("answer", "amber", "Await an answer", { do: "await an answer", for: "+7d" }),
  "await no more": facts("answer", "amber", "Await no more", { do: "await no more" }),
  "add sender to rule": facts("people", "spruce", "Add sender to rule", { do: "add sender to rule", rule: "a list" }),
} as const satisfies Record<StepKind, StepFacts>;

export const stepFacts = (kind: StepKind): StepFacts => STEP_KINDS[kind];

/** What a step says of its letter. */
const letterText = (step: LetterStep): string =>
  [
    step.template && `“${step.template}”`,
    { outbox: step.template ? "" : "at once", draft: step.template ? "as a draft" : "", owed: "put in Owed" }[
      goesOf(step)
    ],
    step.send !== undefined && `sent ${valueText(step.send)}`,
    step.sent !== undefined && `copy to ${valueText(step.sent)}`,
  ]
    .filter(Boolean)
    .join(", ");

/** The parameters of a step in words, for pads and lists; "" where it has none. */
export function detailText(step: Step): string {
  const value = (v: Value | undefined, before = "") => (v === undefined ? "" : `${before}${valueText(v)}`);
  const list = (...words: string[]) => words.filter(Boolean).join(", ");
  switch (step.do) {
    case "move":
    case "copy":
      return valueText(step.to);
    case "label":
      return list(value(step.add, "add "), value(step.remove, "remove "), value(step.toggle, "toggle "));
    case "flag":
      return list(value(step.start, "from "), value(step.due, "due "), value(step.note));
    case "marker":
      return step.set !== undefined ? valueText(step.set) : step.next ? "next" : "clear";
    case "note":
      return valueText(step.text);
    case "pin":
      return value(step.until, "until ");
    case "defer":
      return `until ${valueText(step.until)}`;
    case "make task":
      return list(
        value(step.title),
        value(step.due, "due "),
        step.estimate ? `${step.estimate} min` : "",
        step.repeat ? repeatText(step.repeat) : "",
        step.pressing ? "pressing" : "",
        step.waiting ? "waiting" : "",
      );
    case "only when":
      return step.narrow ?? `“${step.answer}” is yes`;
    case "if":
      return `${step.narrow ?? `“${step.answer}” is yes`}: ${branchesText(step.then, step.else ?? [])}`;
    case "ask":
      return list(`${step.kind} as “${step.name}”`, step.each ? "for each" : "");
    case "run macro":
      return step.macro;
    case "forward":
    case "new message":
      return list(value(step.to, "to "), letterText(step));
    case "reply":
    case "reply all":
      return letterText(step);
    case "await an answer":
      return valueText(step.for);
    case "block time":
      return list(value(step.title), valueText(step.at), `${step.minutes} min`);
    case "make event":
      return list(value(step.title), value(step.at) || "when it says", step.minutes ? `${step.minutes} min` : "");
    case "report":
      return `as ${step.as}`;
    case "block sender":
      return step.domain ? "and all of its domain" : "";
    case "add sender to rule":
      return step.rule;
    default:
      return "";
  }
}

/** What is done on either way: "move Weather, else copy Weather". */
function branchesText(then: readonly Step[], otherwise: readonly Step[]): string {
  const text = (steps: readonly Step[]) => steps.map(stepText).join(", ") || "nothing";
  return otherwise.length === 0 ? text(then) : `${text(then)}; else ${text(otherwise)}`;
}

/** A step in a few words: "move Bookings", "flag due +3d". */
export function stepText(step: Step): string {
  const detail = detailText(step);
  return detail === "" ? step.do : `${step.do} ${detail}`;
}

export const stepsText = (steps: readonly Step[]): string => steps.map(stepText).join(" · ");
