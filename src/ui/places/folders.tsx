"use client";
import { useState } from "react";
import type { Folder } from "@/core/place";
import { AddLine } from "../parts/add-line";
import { Picker } from "../parts/picker";
import { TextEdit } from "../parts/text-edit";
import { countText, plural } from "../parts/words";
import { useView } from "../state/store";
import { useCounts } from "../state/tally";
import { alter, change, make } from "./act";

const SMALL = "rounded-sm border border-rule bg-sheet px-1.5 py-0.5 text-xs";

interface Leaving {
  readonly folder: Folder;
  readonly how: "merge" | "remove";
}

/** Folders with those below them: made, renamed and moved by their path, merged, removed. */
export function Folders() {
  const folders = useView((v) => v.directory.folders);
  const counts = useCounts();
  const [leaving, setLeaving] = useState<Leaving | null>(null);
  const below = (folder: Folder) =>
    folders.filter((one) => one === folder || one.path.toLowerCase().startsWith(`${folder.path.toLowerCase()}/`));
  const countIn = (folder: Folder) => below(folder).reduce((sum, one) => sum + (counts.folder(one.id)?.total ?? 0), 0);
  const take = (folder: Folder, how: Leaving["how"], to: string | null) => {
    setLeaving(null);
    const query = new URLSearchParams({
      ...(to === null ? {} : { to }),
      ...(how === "merge" ? { merge: "true" } : {}),
    });
    const done = to === null ? "It was empty." : `Its mail is in ${to}.`;
    const said = `${folder.path} is ${how === "merge" ? `part of ${to}` : "removed"}. ${done} U takes it back.`;
    void change("DELETE", `/folders/${folder.id}?${query}`, undefined, said);
  };
  const begin = (folder: Folder, how: Leaving["how"]) => {
    if (how === "remove" && countIn(folder) === 0) return take(folder, how, null);
    setLeaving({ folder, how });
  };
  return (
    <section aria-labelledby="folders-title">
      <h2 id="folders-title" className="mb-1 text-[13px] font-bold">
        Folders
      </h2>
      <p className="mb-2 max-w-[60ch] text-[13px] text-ink-2">
        A path such as Bookings/Groups puts a folder into another; renaming the path moves it with all below it.
      </p>
      <AddLine label="Path of a new folder" verb="Make" onAdd={(path) => make("folder", path)} className="mb-2" />
      <ul className="text-[13px]" aria-label="All folders">
        {folders.map((folder) => (
          <li key={folder.id} className="flex items-center gap-2 border-b border-rule-soft py-0.5">
            <span style={{ width: 10 * (folder.path.split("/").length - 1) }} aria-hidden />
            <TextEdit
              label={`Path of ${folder.path}`}
              value={folder.path}
              onChange={(path) =>
                alter(
                  `/folders/${folder.id}`,
                  { path: folder.path },
                  { path },
                  `${folder.path} is ${path} now, and macros and batches follow`,
                )
              }
              className="flex-1"
            />
            {folder.role && <span className="text-xs text-ink-3">{folder.role}</span>}
            <span className="num w-14 text-right text-xs text-ink-2">{countText(counts.folder(folder.id)?.total)}</span>
            {folder.role === null ? (
              <>
                <button
                  type="button"
                  className={SMALL}
                  onClick={() => begin(folder, "merge")}
                  aria-label={`Merge ${folder.path} into another`}
                >
                  merge…
                </button>
                <button
                  type="button"
                  className={SMALL}
                  onClick={() => begin(folder, "remove")}
                  aria-label={`Remove ${folder.path}`}
                >
                  remove…
                </button>
              </>
            ) : (
              <span className="w-[125px]" />
            )}
          </li>
        ))}
      </ul>
      {leaving && (
        <Picker
          title={`${leaving.how === "merge" ? "Merge" : "Remove"} ${leaving.folder.path}: where does its mail go, ${plural(countIn(leaving.folder), "message")}?`}
          choices={folders
            .filter((one) => !below(leaving.folder).includes(one))
            .map((one) => ({ id: one.path, name: one.path }))}
          onChoose={(to) => take(leaving.folder, leaving.how, to)}
          onClose={() => setLeaving(null)}
        />
      )}
    </section>
  );
}
