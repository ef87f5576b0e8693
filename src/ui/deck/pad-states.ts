import { useMemo } from "react";
import { checkSteps, textOfProblem } from "@/core/macro";
import { asksForWords, matcher, readNarrow } from "@/core/narrow";
import { useAfterPaint } from "../parts/use-after-paint";
import { planContext } from "../state/decide";
import { mailbox, useView } from "../state/store";

/** Why each macro cannot act now, by its number; those that can are missing. The list is painted first. */
export function usePadReasons(): ReadonlyMap<number, string> {
  const macros = useView((v) => v.macros);
  const directory = useView((v) => v.directory);
  const focus = useView((v) => v.focusId);
  const selected = useView((v) => v.selected);
  const changes = useView((v) => v.version);
  const now = useMemo(() => ({ focusId: focus, ticked: selected, version: changes }), [focus, selected, changes]);
  const { focusId, ticked, version } = useAfterPaint(now);
  const fixed = useMemo(() => {
    void directory;
    const context = { ...planContext(), now: new Date() };
    const stopped = new Map<number, string>();
    const isFor = new Map<number, ReturnType<typeof matcher>>();
    for (const macro of macros) {
      const { problems } = checkSteps(macro, context);
      if (problems.length > 0) stopped.set(macro.id, problems.map(textOfProblem).join(" "));
      const narrow = macro.settings.for ? readNarrow(macro.settings.for, context) : null;
      // Whether the words of a message are the right ones only the server knows.
      if (narrow?.ok && !asksForWords(narrow.test)) isFor.set(macro.id, matcher(narrow.test));
    }
    return { stopped, isFor };
  }, [macros, directory]);
  return useMemo(() => {
    // What the message says is the mailbox's: its version says when that changed.
    void version;
    const reasons = new Map(fixed.stopped);
    if (ticked > 0 || focusId === null) return reasons;
    const row = mailbox.rowOf(focusId);
    for (const [id, matches] of fixed.isFor) {
      const fits = row !== undefined && matches(mailbox.at(row));
      if (!fits && !reasons.has(id)) reasons.set(id, "It is not for this message.");
    }
    return reasons;
  }, [fixed, focusId, ticked, version]);
}
