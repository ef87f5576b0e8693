import { setImmediate } from "node:timers/promises";
import type { Steps } from "@/core/mail/calendar";

/** So long others wait at the most, but for the step that is under way. */
const LONGEST_MS = 10;

/** Does what takes long in turns with everything else that is asked of this process. */
export async function inTurns<T>(steps: Steps<T>): Promise<T> {
  for (let began = performance.now(); ;) {
    const step = steps.next();
    if (step.done) return step.value;
    if (performance.now() - began < LONGEST_MS) continue;
    await setImmediate();
    began = performance.now();
  }
}
