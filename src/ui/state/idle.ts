/** Does something when the window has nothing better to do. */
export function whenIdle(work: () => void): void {
  // Not every browser tells when it is idle.
  if (typeof requestIdleCallback === "function") requestIdleCallback(work, { timeout: 5000 });
  else setTimeout(work, 200);
}

let touched = 0;
let touchedAt = 0;
/** Whether the person has done nothing for so long. */
export const isQuietFor = (ms: number): boolean => performance.now() - touched >= ms;
/** Whether the person has done nothing since. @param at milliseconds since 1970 */
export const isQuietSince = (at: number): boolean => touchedAt <= at;

function touch(): void {
  touched = performance.now();
  // By the clock that decisions are dated by, wherever that is put.
  touchedAt = Date.now();
}

if (typeof window !== "undefined")
  for (const type of ["keydown", "pointerdown", "wheel"] as const)
    window.addEventListener(type, touch, { capture: true, passive: true });
