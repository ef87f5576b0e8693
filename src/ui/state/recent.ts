import type { Change } from "@/core/change";
import type { Folder } from "@/core/place";
import { guessesOf } from "./guesses";
import { mailbox, view } from "./store";

/** Folders that mail was put into lately, in this browser, for offering them first. */
const KEY = "tachyne-recent-folders";
const MOST_KEPT = 12;
const MOST_LIKELY = 3;

function read(): number[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(kept) ? kept.filter((id) => typeof id === "number") : [];
  } catch {
    return [];
  }
}

/** Notes where a change puts mail. */
export function noteFolders(change: Change): void {
  const used = new Set<number>();
  for (const edits of new Set(change.messages.values()))
    for (const edit of edits) if (edit.kind === "folder") used.add(edit.after);
  if (used.size === 0) return;
  const next = [...used, ...read().filter((id) => !used.has(id))].slice(0, MOST_KEPT);
  try {
    localStorage.setItem(KEY, JSON.stringify(next));
  } catch {
    // It is a convenience: nothing is said when there is no room for it.
  }
}

export interface Offered {
  readonly folder: Folder;
  /** Why it is offered early, such as how sure it is; "" for the rest. */
  readonly why: string;
}

/** Every folder, those likely for the messages first, then those used lately. */
export function offeredFolders(ids: readonly number[]): Offered[] {
  const { folders } = view().directory;
  const own = new Set<number>(folders.filter((folder) => folder.role === null).map((folder) => folder.id));
  const row = ids[0] === undefined ? undefined : mailbox.rowOf(ids[0]);
  const here = row === undefined ? 0 : mailbox.columns.folder[row]!;
  const likely = (ids[0] === undefined ? null : guessesOf(ids[0])) ?? [];
  const offered = new Map<number, string>();
  for (const { folder, percent } of likely.filter((one) => one.folder !== here).slice(0, MOST_LIKELY))
    offered.set(folder, `${percent} %`);
  for (const id of read()) if (id !== here && own.has(id) && !offered.has(id)) offered.set(id, "recent");
  const first = [...offered].flatMap(([id, why]) => {
    const folder = folders.find((one) => one.id === id);
    return folder ? [{ folder, why }] : [];
  });
  return [...first, ...folders.filter((one) => !offered.has(one.id)).map((folder): Offered => ({ folder, why: "" }))];
}
