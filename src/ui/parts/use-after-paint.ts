import { startTransition, useEffect, useState } from "react";
import { afterPaint } from "../state/after-paint";

/**
 * A value as it was when a frame was painted last: what is drawn by it comes after what a key was pressed for. React's
 * own deferred values do not wait for that: their work fills the time there is before the frame, and puts it off.
 * @param first what it is before anything was painted
 */
export function useAfterPaint<T>(value: T, first: T = value): T {
  const [painted, setPainted] = useState<T>(() => first);
  useEffect(() => {
    if (Object.is(painted, value)) return;
    return afterPaint(() => startTransition(() => setPainted(() => value)));
  }, [value, painted]);
  return painted;
}
