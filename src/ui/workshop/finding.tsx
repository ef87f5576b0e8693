"use client";
import type { MacroShape } from "@/core/api";
import type { Finding, Repair } from "@/core/macro";
import { make } from "../places/act";
import { changeMacro } from "./edit";

function mend(macro: MacroShape, repair: Repair): void {
  if ("make" in repair) void make(repair.make, repair.name);
  else if ("steps" in repair) void changeMacro(macro, { steps: [...repair.steps] }, repair.text);
  else void changeMacro(macro, { settings: repair.settings }, repair.text);
}

const LOOK = {
  stops: "bg-brick-soft",
  warns: "bg-amber-soft",
  tells: "bg-slate-soft",
} as const;

const WORD = { stops: "Stops it.", warns: "Check.", tells: "Note." } as const;

/** What the check says, with what can be done about it. */
export function FindingLine({ macro, finding }: { readonly macro: MacroShape; readonly finding: Finding }) {
  return (
    <div
      data-finding={finding.code}
      className={`mt-1.5 rounded-md px-2.5 py-1.5 text-[13px] text-ink ${LOOK[finding.severity]}`}
    >
      <b>{WORD[finding.severity]}</b> {finding.text}
      {finding.repairs.length > 0 && (
        <span className="mt-1 flex flex-wrap gap-1.5">
          {finding.repairs.map((repair) => (
            <button
              key={repair.text}
              type="button"
              onClick={() => mend(macro, repair)}
              className="rounded-sm border border-edge bg-sheet px-2 py-0.5 text-xs"
            >
              {repair.text}
            </button>
          ))}
        </span>
      )}
    </div>
  );
}
