import { ofState, type CellEdit, type MessageState } from "@/core/change";
import type { EntryDetail, EntryShape } from "@/core/api";
import { runId, type RunId } from "@/core/id";
import { findEntry, listEntries, readRun, type LedgerQuery } from "../store";
import { notFound, type Context } from "./context";
import { readDirectory } from "./directory";
import { endsOf, namesIn } from "./dry";
import { entryShapeOf } from "./runs";

/** How many messages of an entry are shown one by one. */
const SHOWN = 200;

export async function readLedger({ db, person }: Context, query: LedgerQuery): Promise<EntryShape[]> {
  return (await listEntries(db.sql, person, query)).map(entryShapeOf);
}

const NOTHING = {} as MessageState;

/** The state as far as the edits say what it was. */
function stateBefore(edits: readonly CellEdit[]): MessageState {
  const labels = edits.flatMap((edit) => (edit.kind === "label" && edit.before ? [edit.label] : []));
  const cells = edits.filter(ofState).map((edit) => (edit.kind === "label" ? [] : [edit.kind, edit.before]));
  return { ...NOTHING, labels, ...Object.fromEntries(cells.filter((cell) => cell.length > 0)) };
}

function madeText(edit: CellEdit): string | null {
  switch (edit.kind) {
    case "exists":
      return edit.after ? "copied" : "copy taken away";
    case "task":
      return edit.after ? `task: ${edit.after.title}` : "task taken away";
    case "contact":
      return edit.after ? `contact: ${edit.address}` : `no contact: ${edit.address}`;
    case "blocked":
      return `${edit.after ? "blocked" : "unblocked"}: ${edit.address}`;
    case "gone":
      return "deleted for good";
    default:
      return null;
  }
}

/** What an entry changed, message by message, and what was left alone. */
export async function readEntry(context: Context, id: RunId): Promise<EntryDetail> {
  const { db, person } = context;
  const entry = await findEntry(db.sql, person, runId(id));
  if (!entry || entry.kind === "arrival") throw notFound("run", id);
  const [{ written }, directory] = await Promise.all([readRun(db.sql, person, id), readDirectory(context)]);
  const names = namesIn(directory);
  const shown = [...written].slice(0, SHOWN);
  const subjects = await db.sql<{ id: number; subject: string }[]>`
    select id, subject from message where person = ${person} and id = any(${shown.map(([m]) => m)}::bigint[])`;
  const subjectOf = new Map(subjects.map((row) => [row.id, row.subject]));
  return {
    entry: entryShapeOf(entry),
    changes: shown.map(([message, edits]) => ({
      message,
      subject: subjectOf.get(message) ?? "(deleted since)",
      ...endsOf(stateBefore(edits), edits, names),
      made: edits.map(madeText).filter((text) => text !== null),
    })),
    skipped: entry.skipped.slice(0, SHOWN).map((skip) => ({
      message: skip.message,
      step: "step" in skip ? skip.step : 0,
      cell: "cell" in skip ? skip.cell : "",
      reason: skip.reason,
    })),
  };
}
