"use client";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import type { MacroShape } from "@/core/api";
import { abilitiesOf, type Finding } from "@/core/macro";
import { PlanTable } from "../foresight/plan-table";
import { cellText } from "../parts/cell-text";
import { countText } from "../parts/words";
import { wantGuesses } from "../state/guesses";
import { listedRows } from "../state/listed";
import { targetIds } from "../state/select";
import { foreseeOn, targetsOf } from "../state/run";
import { dryRun } from "../state/reads";
import { mailbox, useView } from "../state/store";
import { FindingLine } from "./finding";

const SHOWN = 12;
const SAMPLE = 20;
/** As many messages as the server is asked about at most, for a look. */
const MOST_ASKED = 200;

type On = "selected" | "list" | "sample";

/** So many messages of the list, spread over the whole of it. */
function sampleOf(rows: Int32Array, most: number): number[] {
  const count = Math.min(most, rows.length);
  const step = rows.length / Math.max(1, count);
  return Array.from({ length: count }, (_, i) => mailbox.columns.id[rows[Math.floor(i * step)]!]!);
}

/** What the server says of messages whose words a step needs. */
function ServerDry({ macro, ids }: { readonly macro: MacroShape; readonly ids: readonly number[] }) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const { data: answer, error } = useQuery(dryRun(macro, ids.slice(0, MOST_ASKED)));
  if (error) return <p role="alert">{error.message}</p>;
  if (!answer) return <p className="text-[13px] text-ink-2">Asking the server, which reads the texts…</p>;
  return (
    <table className="w-full table-fixed text-[13px]">
      <caption className="pb-1 text-left text-xs text-ink-2">As the server says, with the texts read</caption>
      <tbody>
        {answer.messages.slice(0, SHOWN).map((message) => {
          const row = mailbox.rowOf(message.id);
          return (
            <tr key={message.id} className="border-b border-rule align-top">
              <td className="w-2/5 truncate py-1.5 pr-3">{row === undefined ? "" : mailbox.text(row, "fromName")}</td>
              <td className="py-1.5 break-words">
                {Object.entries(message.after)
                  .map(([cell, value]) => `${cell}: ${cellText(value, zone)}`)
                  .concat(message.made)
                  .join(", ")}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** What the check says of a macro, and what it would do to messages of one's choice. */
export function Outcome({ macro, findings }: { readonly macro: MacroShape; readonly findings: readonly Finding[] }) {
  const version = useView((v) => v.version);
  const ticked = useView((v) => v.selection);
  const directory = useView((v) => v.directory);
  const macros = useView((v) => v.macros);
  const guessed = useView((v) => v.guessed);
  const [on, setOn] = useState<On>("selected");
  const stopped = findings.some((finding) => finding.severity === "stops");
  const rows = useMemo(() => (version >= 0 ? listedRows() : new Int32Array()), [version]);
  const { ids, planned } = useMemo(() => {
    // What the mailbox holds is no state of React's: these say when it changed.
    void [version, ticked, directory, macros, guessed];
    const chosen =
      on === "selected" ? targetIds() : on === "sample" ? sampleOf(rows, SAMPLE) : sampleOf(rows, Infinity);
    const all = targetsOf(macro, chosen);
    return { ids: all, planned: stopped ? null : foreseeOn(macro, all) };
  }, [version, ticked, directory, macros, rows, on, macro, stopped, guessed]);
  // Where its messages belong may not have been in sight yet.
  useEffect(() => wantGuesses(ids.slice(0, MOST_ASKED)), [ids]);
  const { lasting, passing } = abilitiesOf(
    macro,
    useView((v) => v.macros),
  );
  const selected = targetIds().length;
  return (
    <div className="flex flex-col gap-3">
      {findings.length > 0 && (
        <div>
          {findings.map((finding) => (
            <FindingLine key={finding.code + finding.path + finding.text} macro={macro} finding={finding} />
          ))}
        </div>
      )}
      <div className="flex items-center gap-2">
        <h2 className="text-[15px] font-semibold">What it would do to</h2>
        <select
          aria-label="What it would do to"
          value={on}
          onChange={(event) => setOn(event.target.value as On)}
          className="rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]"
        >
          <option value="selected">
            {selected > 1 ? `the ${countText(selected)} selected` : "the chosen message"}
          </option>
          <option value="sample">{Math.min(SAMPLE, rows.length)} of the list</option>
          <option value="list">the whole list, {countText(rows.length)}</option>
        </select>
      </div>
      {stopped && <p className="text-[13px] text-ink-2">Nothing, until what stops it is mended.</p>}
      {planned?.ok && planned.plan.asks.length > 0 && (
        <p className="rounded-md bg-slate-soft px-3 py-2 text-[13px]">
          It asks first:{" "}
          {[...new Set(planned.plan.asks.map((q) => `step ${q.path}, ${q.prompt}`))].slice(0, 5).join("; ")}
        </p>
      )}
      {planned?.ok && planned.plan.asks.length === 0 && <PlanTable plan={planned.plan} ids={ids} most={SHOWN} />}
      {planned?.ok && planned.plan.unknown.length > 0 && <ServerDry macro={macro} ids={planned.plan.unknown} />}
      {macro.steps.length > 0 && (
        <p className={`rounded-md px-3 py-2 text-[13px] ${lasting.length > 0 ? "bg-brick-soft" : "bg-spruce-soft"}`}>
          {lasting.length > 0
            ? `What ${lasting.join(" and ")} does cannot be taken back. It asks before it runs.`
            : passing.length === 0
              ? "All of its steps can be taken back."
              : `All of its steps can be taken back; what ${passing.join(" and ")} asks of others, until it has gone out.`}
        </p>
      )}
    </div>
  );
}
