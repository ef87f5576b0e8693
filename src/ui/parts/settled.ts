import { useEffect, useRef, useState } from "react";

/** Keys that follow each other are closer together. */
const SETTLE_MS = 100;
/** What goes on changing is shown as often as this. */
const MOST_MS = 400;

/** A value once it has stayed the same for a moment: for what may be painted a little later than the list. */
export function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  const since = useRef(0);
  useEffect(() => {
    if (value === settled) return;
    const now = performance.now();
    since.current ||= now;
    const timer = setTimeout(
      () => {
        since.current = 0;
        setSettled(value);
      },
      Math.max(0, Math.min(SETTLE_MS, since.current + MOST_MS - now)),
    );
    return () => clearTimeout(timer);
  }, [value, settled]);
  return settled;
}
