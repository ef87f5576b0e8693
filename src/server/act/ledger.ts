import { ofState, readListed, touchedBy, type MessageEdit, type MessageState, type ThingEdit } from "@/core/change";
import type { EntryDetail, EntryShape } from "@/core/api";
import { runId, type MessageId, type RunId } from "@/core/id";
import type { NameOf } from "@/core/narrow";
import { findEntry, listEntries, readRun, readSkipped, type LedgerQuery } from "../store";
import { notFound, readNames } from "../run";
import type { Context } from "./context";
import { endsOf, namesIn } from "./dry";
import { entryShapeOf, skippedShape } from "./runs";

/** How many messages of an entry are shown one by one. */
const SHOWN = 200;

export async function readLedger({ db, person }: Context, query: LedgerQuery): Promise<EntryShape[]> {
  return (await listEntries(db.sql, person, query)).map(entryShapeOf);
}

const NOTHING = {} as MessageState;

/** The state as far as the edits say what it was. */
function stateBefore(edits: readonly MessageEdit[]): MessageState {
  const labels = edits.flatMap((edit) => (edit.kind === "label" && edit.before ? [edit.label] : []));
  const cells = edits.filter(ofState).map((edit) => (edit.kind === "label" ? [] : [edit.kind, edit.before]));
  return { ...NOTHING, labels, ...Object.fromEntries(cells.filter((cell) => cell.length > 0)) };
}

function endText(edit: MessageEdit): string | null {
  if (edit.kind === "exists") return edit.after ? "copied" : "copy taken away";
  return edit.kind === "gone" ? "deleted for good" : null;
}

const LEAVING_TEXT = { waiting: "to be left", left: "left", refused: "could not be left" } as const;

const REPORT_TEXT = { waiting: "to be reported", told: "reported", refused: "could not be reported" } as const;

function thingText(edit: ThingEdit, nameOf: NameOf): string {
  switch (edit.kind) {
    case "task":
      if (edit.before && edit.after) return `task changed: ${edit.after.title}`;
      return edit.after ? `task: ${edit.after.title}` : "task taken away";
    case "event":
      if (edit.before && edit.after) return `changed in the calendar: ${edit.after.title}`;
      return edit.after ? `in the calendar: ${edit.after.title}` : `out of the calendar: ${edit.before?.title ?? ""}`;
    case "calendar":
      if (edit.before && edit.after) return `calendar changed: ${edit.after.name}`;
      return edit.after ? `calendar: ${edit.after.name}` : `no calendar: ${edit.before?.name ?? ""}`;
    case "contact":
      return edit.after ? `contact: ${edit.key}` : `no contact: ${edit.key}`;
    case "listed": {
      const { list, address } = readListed(edit.key);
      return `${edit.after ? "added to" : "taken out of"} ${list}: ${address}`;
    }
    case "blocked":
      return `${edit.after ? "blocked" : "unblocked"}: ${edit.key}`;
    case "held":
      return edit.after === null ? "called back" : `on its way: ${edit.after}`;
    case "pause":
      return edit.after === null ? "waits no longer for its draft" : "waits for its draft to be sent";
    case "leaving":
      return edit.after === null ? `not to be left: ${edit.key}` : `${LEAVING_TEXT[edit.after.state]}: ${edit.key}`;
    case "report":
      return edit.after === null ? "not reported" : `${REPORT_TEXT[edit.after.state]} as ${edit.after.as}`;
    case "aside":
      return edit.after === "aside" ? `stands aside: ${edit.key}` : `stands aside no more: ${edit.key}`;
    case "folder":
    case "label":
      return `${edit.kind} ${edit.after ? "brought back" : "removed"}: ${nameOf(edit.kind, Number(edit.key)) ?? edit.key}`;
  }
}

/** What an entry changed, message by message, and what was left alone. */
export async function readEntry(context: Context, id: RunId): Promise<EntryDetail> {
  const { db, person } = context;
  const entry = await findEntry(db.sql, person, runId(id));
  if (!entry) throw notFound("run", id);
  const [{ written }, { directory, nameOf }, skipped] = await Promise.all([
    readRun(db.sql, person, id),
    readNames(db.sql, person),
    readSkipped(db.sql, person, id),
  ]);
  const names = namesIn(directory);
  const made = new Map<MessageId | null, string[]>();
  for (const edit of written.things.values())
    made.set(edit.about, [...(made.get(edit.about) ?? []), thingText(edit, nameOf)]);
  const shown = [...touchedBy(written)].slice(0, SHOWN);
  const subjects = await db.sql<{ id: number; subject: string }[]>`
    select id, subject from message where person = ${person} and id = any(${shown}::bigint[])`;
  const subjectOf = new Map(subjects.map((row) => [row.id, row.subject]));
  return {
    entry: entryShapeOf(entry),
    changes: shown.map((message) => {
      const edits = written.messages.get(message) ?? [];
      return {
        message,
        subject: subjectOf.get(message) ?? "(deleted since)",
        ...endsOf(stateBefore(edits), edits, names),
        made: [...edits.map(endText).filter((text) => text !== null), ...(made.get(message) ?? [])],
      };
    }),
    also: made.get(null) ?? [],
    skipped: skippedShape(skipped.slice(0, SHOWN), 0),
  };
}
