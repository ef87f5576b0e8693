import type { Settings, Step } from "@/core/macro";
import type { Layer, PadCode } from "@/core/keys";
import type { Colour, Role } from "@/core/place";
import type { Swipe } from "@/core/swipe";

/** What a person starts with: a folder for each role, markers, macros and the first deck. */
export const STARTER_FOLDERS: readonly (readonly [path: string, role: Role])[] = [
  ["Inbox", "inbox"],
  ["Archive", "archive"],
  ["Trash", "trash"],
  ["Junk", "junk"],
  ["Sent", "sent"],
  ["Drafts", "drafts"],
  ["Outbox", "outbox"],
  ["Aside", "aside"],
];

/** Where the starter macros put what they hand over, and the answers they file. */
export const STARTER_PLACES: readonly string[] = ["Handed over", "Answered"];

/** Long reads are set aside under it, and are a batch like any other. */
export const READING_LABEL = "Reading";
export const STARTER_LABELS: readonly (readonly [name: string, colour: Colour])[] = [[READING_LABEL, "plum"]];
export const STARTER_BATCHES = [
  { name: "Reading pile", narrow: `label=${READING_LABEL}`, order: "oldest", group: "none", deck: null },
] as const;

/** The calendar that what is planned goes into. */
export const STARTER_CALENDAR = "Own";

interface StarterTemplate {
  readonly name: string;
  readonly subject: string;
  readonly text: string;
}

/** Texts to begin with, which show what values can do. */
export const STARTER_TEMPLATES: readonly StarterTemplate[] = [
  {
    name: "Confirmation",
    subject: "",
    text: "Hello {first name = there},\n\nthank you for your message of {date today}: we have noted it, and that is all we need.\n\nBest wishes",
  },
  {
    name: "Nudge",
    subject: "",
    text: "Hello {first name = there},\n\nmay I remind you of this? A short answer by {date +3d} would be a great help.\n\nBest wishes",
  },
  {
    name: "Which night",
    subject: "",
    text: "Hello {first name = there},\n\nyou asked about {captured (?:at|to|for) ((?:[A-Z]\\w+ )?[A-Z]\\w+ Hut|Larch Saddle|Upper Corrie) = the hut}. We can offer you {ask Which night?}.\n\nBest wishes",
  },
];

export const STARTER_MARKERS: readonly (readonly [letter: string, colour: Colour, meaning: string])[] = [
  ["R", "amber", "read closely"],
  ["L", "slate", "look into"],
  ["W", "plum", "waiting"],
  ["U", "brick", "urgent"],
];

interface StarterPad {
  readonly layer: Layer;
  readonly code: PadCode;
  readonly name: string;
  readonly colour: Colour;
  readonly steps: readonly Step[];
  readonly settings: Settings;
}

const pad = (layer: Layer, code: PadCode, name: string, colour: Colour, ...steps: Step[]): StarterPad => ({
  layer,
  code,
  name,
  colour,
  steps,
  settings: {},
});

/** For what is no verdict: the focus stays, so that more can be put on the same message. */
const mark = (...of: Parameters<typeof pad>): StarterPad => ({ ...pad(...of), settings: { focus: "stay" } });

/** The home row holds the commonest verdicts. Every kind of step occurs, so each can be looked at and copied. */
export const STARTER_PADS: readonly StarterPad[] = [
  pad("plain", "KeyQ", "Owe a reply", "amber", { do: "owe" }, { do: "read" }),
  pad(
    "plain",
    "KeyW",
    "Defer",
    "slate",
    { do: "defer", until: { ask: "date", prompt: "Until when?" } },
    { do: "read" },
  ),
  pad(
    "plain",
    "KeyE",
    "Confirm",
    "spruce",
    { do: "reply", template: "Confirmation" },
    { do: "read" },
    { do: "archive" },
  ),
  pad("plain", "KeyR", "Reply", "spruce", { do: "read" }, { do: "reply" }),
  pad(
    "plain",
    "KeyT",
    "Make task",
    "slate",
    { do: "make task", title: { take: "subject", else: "(no subject)" }, due: "+2d" },
    { do: "flag", due: "+2d" },
    { do: "read" },
  ),
  pad(
    "plain",
    "KeyA",
    "File to",
    "spruce",
    { do: "move", to: { ask: "folder", prompt: "File to which folder?" } },
    { do: "read" },
  ),
  pad(
    "plain",
    "KeyS",
    "File as guessed",
    "spruce",
    { do: "move", to: { guess: "folder", otherwise: { ask: "folder", prompt: "Not sure: file to which folder?" } } },
    { do: "read" },
  ),
  pad("plain", "KeyD", "Trash", "brick", { do: "trash" }),
  pad("plain", "KeyF", "Archive", "spruce", { do: "read" }, { do: "archive" }),
  pad(
    "plain",
    "KeyG",
    "Follow up",
    "amber",
    { do: "flag", due: { ask: "date", prompt: "Follow up when?" } },
    { do: "read" },
  ),
  pad("plain", "KeyZ", "Junk and block", "brick", { do: "block sender" }, { do: "read" }, { do: "junk" }),
  pad("plain", "KeyX", "Unsubscribe and trash", "brick", { do: "unsubscribe" }, { do: "read" }, { do: "trash" }),
  mark("plain", "KeyC", "Marker", "plum", { do: "marker", next: true }),
  pad("plain", "KeyV", "Read or unread", "slate", { do: "toggle read" }),
  pad(
    "plain",
    "KeyB",
    "Hand over",
    "spruce",
    { do: "forward", to: { ask: "text", prompt: "Hand over to whom?" }, goes: "outbox" },
    { do: "flag", due: "+3d", note: "handed over" },
    { do: "read" },
    { do: "move", to: "Handed over" },
  ),
  pad("shift", "KeyQ", "Urgent", "brick", { do: "marker", set: "U" }, { do: "flag", due: "today 17:00" }),
  pad(
    "shift",
    "KeyW",
    "Next week",
    "slate",
    { do: "flag", start: "next mon", due: "next fri", note: "next week" },
    { do: "read" },
  ),
  mark("shift", "KeyE", "Label", "plum", { do: "label", add: { ask: "label", prompt: "Which label?" } }),
  pad("shift", "KeyS", "File, second guess", "spruce", { do: "move", to: { guess: "folder", nth: 2 } }, { do: "read" }),
  pad("shift", "KeyA", "File, third guess", "spruce", { do: "move", to: { guess: "folder", nth: 3 } }, { do: "read" }),
  mark("shift", "KeyX", "Note", "slate", {
    do: "note",
    text: { ask: "text", prompt: "What should be noted?" },
  }),
  mark("shift", "KeyT", "Switch a label", "plum", {
    do: "label",
    toggle: { ask: "label", prompt: "Switch which label?" },
  }),
  pad("shift", "KeyR", "Unread", "slate", { do: "unread" }),
  pad("shift", "KeyZ", "Not junk", "spruce", { do: "not junk" }),
  mark("shift", "KeyV", "Pin", "slate", { do: "pin" }),
  {
    ...pad("shift", "KeyF", "Thread to archive", "spruce", { do: "read" }, { do: "archive" }),
    settings: { whole: "thread" },
  },
  pad("shift", "KeyD", "Delete for good", "brick", { do: "delete for good" }),
  pad("shift", "KeyG", "Do tomorrow", "amber", { do: "flag", due: "tomorrow 9" }, { do: "read" }),
  pad("shift", "KeyC", "Known or not", "plum", {
    do: "if",
    narrow: "listmail",
    then: [{ do: "run macro", macro: "Archive" }, { do: "stop" }],
    else: [{ do: "add contact" }, { do: "owe" }],
  }),
  pad(
    "shift",
    "KeyB",
    "Invoice in",
    "amber",
    { do: "only when", narrow: "subject~invoice" },
    { do: "ask", name: "urgent", kind: "yes/no", prompt: "Is it urgent?" },
    { do: "if", answer: "urgent", then: [{ do: "marker", set: "U" }], else: [] },
    { do: "flag", due: { take: "date in text", else: "+14d" }, note: { take: "amount in text", else: "no amount" } },
    { do: "read" },
  ),
];

/** The second deck: what is wanted less often, alone. */
export const STARTER_MORE: readonly StarterPad[] = [
  pad("plain", "KeyQ", "Flag", "amber", { do: "flag" }),
  pad("plain", "KeyW", "End deferral", "slate", { do: "end deferral" }),
  mark("plain", "KeyE", "Unpin", "slate", { do: "unpin" }),
  pad("plain", "KeyR", "Reply to all", "spruce", { do: "read" }, { do: "reply all" }),
  pad(
    "plain",
    "KeyA",
    "Answer and be done",
    "spruce",
    { do: "reply", sent: "Answered" },
    { do: "read" },
    { do: "trash" },
  ),
  pad(
    "plain",
    "KeyG",
    "Reply and await",
    "amber",
    { do: "reply" },
    { do: "await an answer", for: "+5d" },
    { do: "read" },
    { do: "archive" },
  ),
  pad("plain", "KeyF", "Forward", "spruce", { do: "forward", to: { ask: "text", prompt: "To whom?" }, goes: "draft" }),
  pad("plain", "KeyB", "In three days", "amber", { do: "read" }, { do: "flag", due: "+3d" }, { do: "archive" }),
  pad("plain", "KeyV", "Await no more", "slate", { do: "await no more" }),
  pad("plain", "KeyS", "Nudge", "amber", { do: "reply", template: "Nudge" }, { do: "await an answer", for: "+5d" }),
  pad("plain", "KeyT", "Read and on", "slate", { do: "read" }),
  pad(
    "plain",
    "KeyX",
    "Done, keep near",
    "spruce",
    { do: "read" },
    { do: "unflag" },
    { do: "marker", clear: true },
    { do: "owe no more" },
    { do: "pin" },
  ),
  mark("plain", "KeyC", "Clear marker", "plum", { do: "marker", clear: true }),
  mark("shift", "KeyV", "At hand until", "slate", { do: "pin", until: { ask: "date", prompt: "At hand until when?" } }),
  pad(
    "shift",
    "KeyR",
    "To the reading pile",
    "plum",
    { do: "label", add: READING_LABEL },
    { do: "read" },
    { do: "archive" },
  ),
  { ...pad("plain", "KeyD", "Thread to trash", "brick", { do: "trash" }), settings: { whole: "thread" } },
  pad("plain", "KeyZ", "Junk", "brick", { do: "read" }, { do: "junk" }),
  pad(
    "shift",
    "KeyX",
    "Clear marks",
    "brick",
    { do: "unflag" },
    { do: "unpin" },
    { do: "marker", clear: true },
    { do: "owe no more" },
  ),
  pad("shift", "KeyD", "Aside from now on", "slate", { do: "aside" }),
  pad("shift", "KeyF", "Aside no more", "slate", { do: "not aside" }),
  pad(
    "shift",
    "KeyZ",
    "Block the domain",
    "brick",
    { do: "block sender", domain: true },
    { do: "read" },
    { do: "junk" },
  ),
  pad("shift", "KeyE", "Report as junk", "brick", { do: "report", as: "junk" }, { do: "read" }, { do: "junk" }),
  pad("shift", "KeyB", "Report as deceit", "brick", { do: "report", as: "deceit" }, { do: "read" }, { do: "junk" }),
  mark("shift", "KeyS", "Unlabel", "plum", { do: "label", remove: { ask: "label", prompt: "Take off which label?" } }),
  pad("shift", "KeyA", "Copy to", "spruce", { do: "copy", to: { ask: "folder", prompt: "Copy to which folder?" } }),
];

/** The commonest verdicts for a thumb, by the names of the macros above. */
export const STARTER_SWIPES: readonly (readonly [swipe: Swipe, macro: string])[] = [
  ["right-short", "Owe a reply"],
  ["right-long", "Archive"],
  ["left-short", "Defer"],
  ["left-long", "Trash"],
];
