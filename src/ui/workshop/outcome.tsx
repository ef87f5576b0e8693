"use client";
import { useMemo } from "react";
import type { CellEdit } from "@/core/change";
import type { MacroShape } from "@/core/api";
import { checkSteps, plan, textOfProblem } from "@/core/macro";
import type { Directory } from "@/core/place";
import { countText, dateText } from "../parts/words";
import { targetIds } from "../state/browse";
import { mailbox, useView } from "../state/store";

const SHOWN = 12;

/** One edit in a few words. */
function editText(edit: CellEdit, directory: Directory, zone: string): string {
  const date = (iso: string | null | undefined) => (iso ? dateText(iso, zone, new Date()) : "");
  switch (edit.kind) {
    case "folder":
      return `${directory.folders.find((f) => f.id === edit.before)?.path} → ${directory.folders.find((f) => f.id === edit.after)?.path}`;
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
    default:
      return edit.kind;
  }
}

/** What stands in a macro's way, and what it would do to what is selected on the bench. */
export function Outcome({ macro }: { readonly macro: MacroShape }) {
  const directory = useView((v) => v.directory);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const version = useView((v) => v.version);
  const ticked = useView((v) => v.ticked);
  const ids = useMemo(() => (version >= 0 && ticked ? targetIds() : []), [version, ticked]);
  const context = { directory, now: new Date(), zone };
  const { problems, questions } = checkSteps(macro.steps, context);
  const messages = ids.flatMap((id) => {
    const state = mailbox.state(id);
    return state ? [{ id, state }] : [];
  });
  const planned = problems.length === 0 && questions.length === 0 ? plan(macro.steps, messages, {}, context) : null;
  return (
    <div className="flex flex-col gap-3">
      {problems.map((problem, i) => (
        <p key={i} role="alert" className="rounded-md bg-amber-soft px-3 py-2 text-[13px]">
          {textOfProblem(problem)}
        </p>
      ))}
      {questions.length > 0 && (
        <p className="rounded-md bg-slate-soft px-3 py-2 text-[13px]">
          Asks before it runs: {questions.map((q) => `step ${q.step}, ${q.prompt}`).join("; ")}
        </p>
      )}
      {planned?.ok && (
        <>
          <h2 className="text-[15px] font-semibold">
            What it would do to{" "}
            {messages.length === 1 ? "the chosen message" : `the ${countText(messages.length)} selected`}
          </h2>
          <table className="w-full table-fixed text-[13px]">
            <tbody>
              {messages.slice(0, SHOWN).map(({ id }) => {
                const row = mailbox.rowOf(id)!;
                const edits = planned.plan.change.get(id) ?? [];
                const copies = planned.plan.copies.filter((copy) => copy.source === id).length;
                const words = [
                  ...edits.map((edit) => editText(edit, directory, zone)),
                  ...(copies > 0 ? [`${copies} ${copies === 1 ? "copy" : "copies"}`] : []),
                ];
                return (
                  <tr key={id} className="border-b border-rule">
                    <td className="truncate py-1.5 pr-3">
                      {mailbox.text(row, "fromName") || mailbox.text(row, "fromAddress")}
                    </td>
                    <td className="py-1.5">
                      {words.length > 0 ? (
                        words.join(", ")
                      ) : (
                        <span className="text-ink-3">skipped: it is so already</span>
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {messages.length > SHOWN && (
            <p className="text-[13px] text-ink-2">and {countText(messages.length - SHOWN)} more.</p>
          )}
          <p className="rounded-md bg-spruce-soft px-3 py-2 text-[13px]">All of its steps can be taken back.</p>
        </>
      )}
    </div>
  );
}
