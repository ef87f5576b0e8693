import type { Colour } from "../place";
import { isAsked, type Step, type StepKind, type Value } from "./step";

export type Family = "place" | "mark" | "flow";

export interface StepFacts {
  readonly family: Family;
  readonly colour: Colour;
  readonly title: string;
  /** How a run takes it back: by the inverse edits, or not at all because it does nothing itself. */
  readonly undo: "inverse" | "nothing-to-undo";
  /** What a new step of this kind starts as. */
  readonly fresh: Step;
  /** Its parameters in words, for pads and lists; "" where it has none. */
  readonly detail: (step: Step) => string;
}

export const valueText = (value: Value): string => (isAsked(value) ? `ask ${value.ask}` : value);

const nothing = () => "";

const labelDetail = (step: Step): string => {
  if (step.do !== "label") return "";
  if (step.add !== undefined) return `add ${valueText(step.add)}`;
  if (step.remove !== undefined) return `remove ${valueText(step.remove)}`;
  return `toggle ${valueText(step.toggle ?? "")}`;
};

const flagDetail = (step: Step): string => {
  if (step.do !== "flag") return "";
  const words = [
    step.start !== undefined && `from ${valueText(step.start)}`,
    step.due !== undefined && `due ${valueText(step.due)}`,
    step.note !== undefined && valueText(step.note),
  ];
  return words.filter(Boolean).join(", ");
};

const markerDetail = (step: Step): string =>
  step.do !== "marker" ? "" : step.set !== undefined ? step.set : step.next ? "next" : "clear";

const toDetail = (step: Step): string => (step.do === "move" || step.do === "copy" ? valueText(step.to) : "");

/** Everything there is to know about a kind of step. A new kind does not compile before it is described here. */
export const STEP_KINDS = {
  move: {
    family: "place",
    colour: "spruce",
    title: "Move",
    undo: "inverse",
    fresh: { do: "move", to: { ask: "folder" } },
    detail: toDetail,
  },
  copy: {
    family: "place",
    colour: "spruce",
    title: "Copy",
    undo: "inverse",
    fresh: { do: "copy", to: { ask: "folder" } },
    detail: toDetail,
  },
  archive: {
    family: "place",
    colour: "spruce",
    title: "Archive",
    undo: "inverse",
    fresh: { do: "archive" },
    detail: nothing,
  },
  trash: { family: "place", colour: "brick", title: "Trash", undo: "inverse", fresh: { do: "trash" }, detail: nothing },
  junk: { family: "place", colour: "brick", title: "Junk", undo: "inverse", fresh: { do: "junk" }, detail: nothing },
  "not junk": {
    family: "place",
    colour: "spruce",
    title: "Not junk",
    undo: "inverse",
    fresh: { do: "not junk" },
    detail: nothing,
  },
  read: {
    family: "mark",
    colour: "slate",
    title: "Mark read",
    undo: "inverse",
    fresh: { do: "read" },
    detail: nothing,
  },
  unread: {
    family: "mark",
    colour: "slate",
    title: "Mark unread",
    undo: "inverse",
    fresh: { do: "unread" },
    detail: nothing,
  },
  "toggle read": {
    family: "mark",
    colour: "slate",
    title: "Toggle read",
    undo: "inverse",
    fresh: { do: "toggle read" },
    detail: nothing,
  },
  flag: {
    family: "mark",
    colour: "amber",
    title: "Flag",
    undo: "inverse",
    fresh: { do: "flag", due: "tomorrow 9" },
    detail: flagDetail,
  },
  unflag: {
    family: "mark",
    colour: "amber",
    title: "Unflag",
    undo: "inverse",
    fresh: { do: "unflag" },
    detail: nothing,
  },
  pin: { family: "mark", colour: "slate", title: "Pin", undo: "inverse", fresh: { do: "pin" }, detail: nothing },
  unpin: { family: "mark", colour: "slate", title: "Unpin", undo: "inverse", fresh: { do: "unpin" }, detail: nothing },
  label: {
    family: "mark",
    colour: "plum",
    title: "Label",
    undo: "inverse",
    fresh: { do: "label", add: { ask: "label" } },
    detail: labelDetail,
  },
  marker: {
    family: "mark",
    colour: "plum",
    title: "Marker",
    undo: "inverse",
    fresh: { do: "marker", next: true },
    detail: markerDetail,
  },
  note: {
    family: "mark",
    colour: "slate",
    title: "Note",
    undo: "inverse",
    fresh: { do: "note", text: { ask: "text" } },
    detail: (step) => (step.do === "note" ? valueText(step.text) : ""),
  },
  stop: {
    family: "flow",
    colour: "brick",
    title: "Stop",
    undo: "nothing-to-undo",
    fresh: { do: "stop" },
    detail: nothing,
  },
} as const satisfies Record<StepKind, StepFacts>;

export const stepFacts = (kind: StepKind): StepFacts => STEP_KINDS[kind];

/** A step in a few words: "move Bookings", "flag due +3d". */
export function stepText(step: Step): string {
  const detail = stepFacts(step.do).detail(step);
  return detail === "" ? step.do : `${step.do} ${detail}`;
}

export const stepsText = (steps: readonly Step[]): string => steps.map(stepText).join(" · ");
