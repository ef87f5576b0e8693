import { useRef, useState, type PointerEvent } from "react";
import { fingerDown, fingerMoved, fingerUp, type Finger, type Sample, type Swipe } from "@/core/swipe";

export interface Swiping {
  /** The row under the finger, by what it is called. */
  readonly row: string;
  readonly offsetPx: number;
  readonly shows: Swipe | null;
}

export interface SwipeHandlers {
  /** Which row a press is on; null where swipes mean nothing. */
  readonly rowOf: (target: EventTarget) => { readonly row: string; readonly widthPx: number } | null;
  readonly onSwipe: (row: string, swipe: Swipe) => void;
  /** Held without moving. */
  readonly onLongPress: (row: string) => void;
}

/** A finger that stays still so long ticks the row. */
const LONG_PRESS_MS = 500;

const sampleOf = (event: PointerEvent): Sample => ({ xPx: event.clientX, yPx: event.clientY, tMs: event.timeStamp });

/** Gives core/swipe the pointers of an element that holds rows; for touch, a pen, or a mouse drag. */
export function useSwipe({ rowOf, onSwipe, onLongPress }: SwipeHandlers) {
  const [swiping, setSwiping] = useState<Swiping | null>(null);
  const state = useRef<{ finger: Finger; row: string; widthPx: number; pointer: number } | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  /** A press that became something else must not also count as a click. */
  const spent = useRef(false);

  const end = () => {
    clearTimeout(timer.current);
    state.current = null;
    setSwiping(null);
  };
  return {
    swiping,
    /** Whether the click that is being handled is the end of a swipe or long press. */
    isSpent: () => spent.current,
    pointers: {
      onPointerDown: (event: PointerEvent) => {
        spent.current = false;
        const found = event.isPrimary && event.button === 0 ? rowOf(event.target) : null;
        if (!found) return end();
        state.current = { ...found, finger: fingerDown(sampleOf(event)), pointer: event.pointerId };
        clearTimeout(timer.current);
        if (event.pointerType === "mouse") return;
        timer.current = setTimeout(() => {
          if (state.current?.finger.phase !== "down") return;
          spent.current = true;
          onLongPress(found.row);
          end();
        }, LONG_PRESS_MS);
      },
      onPointerMove: (event: PointerEvent) => {
        const now = state.current;
        if (!now || now.pointer !== event.pointerId) return;
        const seen = fingerMoved(now.finger, sampleOf(event), now.widthPx);
        now.finger = seen.finger;
        if (seen.finger.phase === "down") return;
        clearTimeout(timer.current);
        if (seen.finger.phase !== "across") return end();
        spent.current = true;
        event.currentTarget.setPointerCapture(event.pointerId);
        setSwiping({ row: now.row, offsetPx: seen.offsetPx, shows: seen.shows });
      },
      onPointerUp: (event: PointerEvent) => {
        const now = state.current;
        if (!now || now.pointer !== event.pointerId) return;
        const swipe = fingerUp(now.finger, sampleOf(event), now.widthPx);
        end();
        if (swipe) onSwipe(now.row, swipe);
      },
      onPointerCancel: end,
    },
  };
}
