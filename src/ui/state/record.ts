import { recordSteps, type Recorded } from "@/core/macro";
import { notify, set, view } from "./store";

/** Recording: what is done by hand is noted until it is stopped, and becomes a macro. */

export function startRecording(): void {
  set({ recording: [] });
  notify("Recording. Do it by hand, then stop.");
}

export const dropRecording = (): void => set({ recording: null });

/** What was recorded, without what was taken back since; null where nothing was done. */
export function stopRecording(): Recorded | null {
  const { recording, ledger } = view();
  set({ recording: null });
  const undone = new Set(ledger.filter((entry) => entry.state === "undone").map((entry) => entry.id));
  const recorded = recordSteps(recording ?? [], undone);
  return recorded.steps.length === 0 ? null : recorded;
}
