"use client";
import { matchingRows } from "@/core/list";
import { countText, plural } from "../parts/words";
import { checkNarrow } from "../state/browse";
import { maskOf } from "../state/listed";
import { placeOf } from "../state/places";
import { runMacro } from "../state/run";
import { mailbox, useView } from "../state/store";
import { useCounts } from "../state/tally";

/** Deletes everything in a place for good; it is asked about once, with the count. */
function empty(name: string, place: string): void {
  const checked = checkNarrow(place);
  if (!checked.ok) return;
  const ids = [...matchingRows(maskOf(checked.test))].map((row) => mailbox.columns.id[row]!);
  const described = { narrow: place, except: [], through: mailbox.largestId };
  const steps = [{ do: "delete for good" as const }];
  const macro = { id: 0, name: `Empty ${name}`, colour: "brick" as const, steps, settings: {}, uses: 0, usedAt: null };
  runMacro(macro, { ids, described });
}

/** In trash and junk: how long they keep mail, and the way to empty them. */
export function KeepBar() {
  const place = useView((v) => v.place);
  const batch = useView((v) => v.batch);
  const folder = useView((v) =>
    v.directory.folders.find((f) => (f.role === "trash" || f.role === "junk") && placeOf(f) === v.place),
  );
  const days = useView((v) =>
    folder ? (v.home?.settings[folder.role === "trash" ? "trashDays" : "junkDays"] ?? null) : null,
  );
  const counts = useCounts();
  const count = (folder && counts.folder(folder.id)?.total) ?? 0;
  if (!folder || batch !== null) return null;
  return (
    <p className="flex items-center gap-3 border-b border-rule bg-well px-3.5 py-1.5 text-[13px] print:hidden">
      {days === null
        ? `${folder.path} keeps mail until it is emptied.`
        : `${folder.path} keeps a message for ${plural(days, "day")} and then deletes it for good.`}
      {count > 0 && (
        <button
          type="button"
          onClick={() => empty(folder.path, place)}
          className="rounded-sm border border-brick bg-sheet px-2 py-0.5"
        >
          Empty it now: {countText(count)}…
        </button>
      )}
    </p>
  );
}
