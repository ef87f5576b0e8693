"use client";
import { useMemo } from "react";
import type { MacroShape } from "@/core/api";
import { textOfProblem } from "@/core/macro";
import { plural } from "../parts/words";
import { foresee, targetsOf } from "../state/run";
import { useView } from "../state/store";
import { PlanTable } from "./plan-table";

const SHOWN = 8;

/** What a macro would do, while its key is held with Alt. Letting go does nothing. */
export function Foresight({ macro }: { readonly macro: MacroShape }) {
  const version = useView((v) => v.version);
  const ticked = useView((v) => v.selection);
  const focusId = useView((v) => v.focusId);
  const { planned, ids } = useMemo(() => {
    // What the mailbox holds and what is selected is no state of React's: these say when it changed.
    void [version, ticked, focusId];
    return { planned: foresee(macro), ids: targetsOf(macro) };
  }, [macro, version, ticked, focusId]);
  return (
    <section
      aria-label={`What ${macro.name} would do`}
      className="fixed right-4 bottom-48 left-48 z-30 max-h-[60vh] max-w-3xl overflow-y-auto rounded-md border-2 border-ink bg-sheet p-4"
      role="status"
    >
      <h2 className="mb-2 text-[15px] font-semibold">
        {macro.name} would do this to{" "}
        {ids.length === 0 ? "nothing: no message is chosen" : plural(ids.length, "message")}
      </h2>
      {!planned.ok && <p className="text-brick">{planned.problems.map(textOfProblem).join(" ")}</p>}
      {planned.ok && planned.plan.asks.length > 0 && (
        <p>It asks first: {planned.plan.asks.map((question) => question.prompt).join(" ")}</p>
      )}
      {planned.ok && planned.plan.asks.length === 0 && <PlanTable plan={planned.plan} ids={ids} most={SHOWN} />}
      <p className="mt-2 text-xs text-ink-3">Let go, and nothing happens.</p>
    </section>
  );
}
