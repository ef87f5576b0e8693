"use client";
import { useEffect, useMemo, useState } from "react";
import type { MacroShape } from "@/core/api";
import { textOfProblem, type Plan } from "@/core/macro";
import { Modal } from "../parts/picker";
import { countText, plural } from "../parts/words";
import { fetchGuesses, guessesOf } from "../state/guesses";
import { foreseeOn, runMacro } from "../state/run";
import { selectMessages } from "../state/select";
import { mailbox, set, useView, view } from "../state/store";

const close = () => set({ dialog: null });
/** So many of those that are left out are named. */
const MOST_NAMED = 6;

interface Sorted {
  readonly sure: readonly number[];
  readonly doubtful: readonly number[];
  readonly plan: Plan;
  /** How many go where, the most first; null for whatever else is done. */
  readonly groups: readonly (readonly [folder: string, count: number])[];
}

/** Those that are filed, and those of which it is not sure enough where they belong. */
function sortOut(macro: MacroShape, ids: readonly number[]): Sorted | string {
  const all = foreseeOn(macro, ids);
  if (!all.ok) return all.problems.map(textOfProblem).join(" ");
  const left = new Set<number>([
    ...all.plan.asks.flatMap(({ message }) => message ?? []),
    ...all.plan.skipped
      .filter(({ reason }) => reason === "doubtful" || reason === "no-guess")
      .map((one) => one.message),
  ]);
  const sure = ids.filter((id) => !left.has(id));
  const planned = foreseeOn(macro, sure);
  if (!planned.ok) return planned.problems.map(textOfProblem).join(" ");
  const counts = new Map<number, number>();
  for (const edits of planned.plan.change.messages.values())
    for (const edit of edits) if (edit.kind === "folder") counts.set(edit.after, (counts.get(edit.after) ?? 0) + 1);
  const { folders } = view().directory;
  const nameOf = (folder: number) => folders.find(({ id }) => (id as number) === folder)?.path ?? "";
  const groups = [...counts].sort((a, b) => b[1] - a[1]).map(([folder, count]) => [nameOf(folder), count] as const);
  return { sure, doubtful: ids.filter((id) => left.has(id)), plan: planned.plan, groups };
}

/** One that is left out, and the best guess there is. */
function Doubtful({ id }: { readonly id: number }) {
  const row = mailbox.rowOf(id);
  const folders = useView((v) => v.directory.folders);
  const best = guessesOf(id)?.[0];
  const path = folders.find((folder) => (folder.id as number) === best?.folder)?.path;
  if (row === undefined) return null;
  return (
    <li className="flex justify-between gap-3 border-b border-rule py-1">
      <span className="min-w-0 truncate">
        {mailbox.text(row, "fromName") || mailbox.text(row, "fromAddress")}:{" "}
        {mailbox.text(row, "subject") || "(no subject)"}
      </span>
      <span className="num shrink-0 text-ink-2">{path && best ? `${path} ${best.percent} %` : "nothing to go by"}</span>
    </li>
  );
}

interface Props {
  readonly macro: MacroShape;
  readonly ids: readonly number[];
}

/** Files many messages where each belongs: how many go where is said first, and what is doubtful is left out. */
export function FileAll({ macro, ids }: Props) {
  const [known, setKnown] = useState<number | null>(0);
  const [problem, setProblem] = useState<string | null>(null);
  const [at] = useState(() => new Date());
  const version = useView((v) => v.version);
  useEffect(() => {
    let isOver = false;
    fetchGuesses(ids, (count) => !isOver && setKnown(count))
      .then(() => !isOver && setKnown(null))
      .catch((error: unknown) => {
        if (!isOver) setProblem(error instanceof Error ? error.message : "The server did not answer.");
      });
    return () => {
      isOver = true;
    };
  }, [ids]);
  const sorted = useMemo(() => (known === null ? sortOut(macro, ids) : null), [known, macro, ids]);
  const title = `${macro.name}: ${plural(ids.length, "message")}`;
  const failed = problem ?? (typeof sorted === "string" ? sorted : null);
  if (failed !== null || sorted === null || typeof sorted === "string")
    return (
      <Modal title={title} onClose={close}>
        <div className="p-4">
          {failed === null ? (
            <p role="status">
              Looking where they belong: {countText(known ?? ids.length)} of {countText(ids.length)}.
            </p>
          ) : (
            <p role="alert" className="text-brick">
              Nothing was filed: {failed}
            </p>
          )}
        </div>
      </Modal>
    );
  const { sure, doubtful, plan, groups } = sorted;
  const file = () => {
    runMacro(macro, { ids: sure, agreed: { plan, at, version } });
    // What was left out is what comes next.
    if (doubtful.length > 0) selectMessages(doubtful);
  };
  return (
    <Modal title={title} onClose={close}>
      <div className="max-h-[56vh] overflow-y-auto p-4 pb-2 text-[13.5px]">
        {groups.length === 0 ? (
          <p>Of none of them it is sure enough where it belongs.</p>
        ) : (
          <table className="w-full">
            <tbody>
              {groups.map(([folder, count]) => (
                <tr key={folder} className="border-b border-rule">
                  <td className="py-1.5 font-semibold">{folder}</td>
                  <td className="num py-1.5 text-right">{countText(count)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {doubtful.length > 0 && (
          <>
            <h3 className="mt-4 mb-1 text-xs font-bold text-ink-2">
              Left out, {countText(doubtful.length)}: not sure enough
            </h3>
            <ul>
              {doubtful.slice(0, MOST_NAMED).map((id) => (
                <Doubtful key={id} id={id} />
              ))}
            </ul>
            <p className="mt-1 text-ink-2">
              {doubtful.length > MOST_NAMED && `And ${countText(doubtful.length - MOST_NAMED)} more. `}
              {doubtful.length === 1 ? "It stays selected" : "They stay selected"}, for deciding by hand.
            </p>
          </>
        )}
      </div>
      <div className="flex gap-2 px-4 pt-2 pb-4">
        {sure.length > 0 && (
          <button
            type="button"
            autoFocus
            onClick={file}
            className="rounded-sm bg-ink px-3 py-1.5 font-semibold text-paper"
          >
            File {countText(sure.length)}
          </button>
        )}
        <button
          type="button"
          autoFocus={sure.length === 0}
          onClick={close}
          className="rounded-sm border border-edge bg-sheet px-3 py-1.5"
        >
          Leave everything as it is
        </button>
      </div>
    </Modal>
  );
}
