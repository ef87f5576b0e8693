import type { MessageEdit } from "@/core/change";
import { letterPlanText, sourceText, type PlannedThing } from "@/core/macro";
import type { Directory } from "@/core/place";
import { dateText } from "../parts/words";

/** One edit in a few words. */
export function editText(edit: MessageEdit, directory: Directory, zone: string): string {
  const date = (iso: string | null | undefined) => (iso ? dateText(iso, zone, new Date()) : "");
  const folder = (id: number) => directory.folders.find((f) => f.id === id)?.path ?? "?";
  switch (edit.kind) {
    case "folder":
      return `${folder(edit.before)} → ${folder(edit.after)}`;
    case "label":
      return `${edit.after ? "+" : "−"}${directory.labels.find((label) => label.id === edit.label)?.name}`;
    case "read":
      return edit.after ? "read" : "unread";
    case "pin":
      return edit.after ? "pinned" : "unpinned";
    case "flag":
      return edit.after ? `flag${edit.after.due ? ` due ${date(edit.after.due)}` : ""}` : "no flag";
    case "marker":
      return edit.after === null ? "no marker" : `marker ${directory.markers.find((m) => m.id === edit.after)?.letter}`;
    case "note":
      return edit.after === null ? "no note" : `note: ${edit.after}`;
    case "defer":
      return edit.after === null ? "not deferred" : `until ${date(edit.after)}`;
    case "back":
      return edit.after === null ? "no longer marked as back" : `back since ${date(edit.after)}`;
    case "await":
      return edit.after === null ? "no answer awaited" : `answer awaited until ${date(edit.after)}`;
    case "hand":
      return edit.after === null ? "no end of the pin" : `at hand until ${date(edit.after)}`;
    case "owed":
      return edit.after ? "owed" : "no longer owed";
    case "gone":
      return "deleted for good";
    default:
      return edit.kind;
  }
}

/** What is made because of a message, in a few words. */
export function thingText(thing: PlannedThing, directory: Directory, zone: string): string {
  switch (thing.kind) {
    case "copy":
      return `copy in ${directory.folders.find((f) => f.id === thing.state.folder)?.path ?? "?"}`;
    case "task":
      return `task: ${thing.task.title}${thing.task.due ? `, due ${dateText(thing.task.due, zone, new Date())}` : ""}`;
    case "event": {
      const { title, at, minutes } = thing.event;
      const when = minutes === null ? at : dateText(at, zone, new Date());
      return `in the calendar: ${title}, ${when}`;
    }
    case "contact":
      return `contact: ${thing.address}`;
    case "blocked":
    case "listed":
    case "leaving":
    case "aside":
    case "report":
      return sourceText(thing);
    case "letter":
      return letterPlanText(thing.letter);
  }
}
