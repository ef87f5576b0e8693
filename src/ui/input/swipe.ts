import { useEffect, useRef, useState, type PointerEvent, type WheelEvent } from "react";
import {
  fingerDown,
  fingerMoved,
  fingerUp,
  RESTING,
  SILENCE_MS,
  wheelPushed,
  wheelRested,
  type Finger,
  type Sample,
  type Swipe,
  type Wheel,
} from "@/core/swipe";

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

/** Gives core/swipe the pointers of an element that holds rows: for touch, a pen, a mouse drag, and a trackpad. */
export function useSwipe({ rowOf, onSwipe, onLongPress }: SwipeHandlers) {
  const [swiping, setSwiping] = useState<Swiping | null>(null);
  const state = useRef<{ finger: Finger; row: string; widthPx: number; pointer: number } | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  /** A press that became something else must not also count as a click. */
  const spent = useRef(false);

  const wheel = useRef<{ now: Wheel; row: string; widthPx: number; timer: ReturnType<typeof setTimeout> | undefined }>({
    now: RESTING,
    row: "",
    widthPx: 0,
    timer: undefined,
  });
  const latest = useRef(onSwipe);
  useEffect(() => {
    latest.current = onSwipe;
  });
  const rest = () => {
    const { now, row, widthPx } = wheel.current;
    wheel.current.now = RESTING;
    setSwiping(null);
    const swipe = wheelRested(now, widthPx);
    if (swipe) latest.current(row, swipe);
  };
  const onWheel = ({ target, deltaX, deltaY, timeStamp, deltaMode, ctrlKey }: WheelEvent) => {
    // Lines and pages come from wheels, which turn one way; with Ctrl they zoom.
    if (deltaMode !== 0 || ctrlKey || state.current) return;
    const { current } = wheel;
    if (current.now.phase !== "across") {
      const found = rowOf(target);
      if (!found) return;
      Object.assign(current, found);
    }
    const seen = wheelPushed(current.now, { dxPx: deltaX, dyPx: deltaY, tMs: timeStamp }, current.widthPx);
    current.now = seen.wheel;
    if (seen.wheel.phase !== "across") return;
    setSwiping({ row: current.row, offsetPx: seen.offsetPx, shows: seen.shows });
    clearTimeout(current.timer);
    current.timer = setTimeout(rest, SILENCE_MS);
  };

  const letGo = useRef<() => void>(() => {});
  /** A browser that takes what goes across for a fling of its own swallows the tap that comes next. */
  const hold = (box: EventTarget) => {
    const keep = (event: Event) => {
      if (state.current?.finger.phase === "across" && event.cancelable) event.preventDefault();
    };
    box.addEventListener("touchmove", keep, { passive: false });
    letGo.current = () => box.removeEventListener("touchmove", keep);
  };
  const end = () => {
    clearTimeout(timer.current);
    letGo.current();
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
        end();
        if (!found) return;
        const pressed = { ...found, finger: fingerDown(sampleOf(event)), pointer: event.pointerId };
        state.current = pressed;
        if (event.pointerType === "mouse") return;
        hold(event.currentTarget);
        const press = () => {
          if (state.current !== pressed || pressed.finger.phase !== "down") return;
          spent.current = true;
          onLongPress(found.row);
          end();
        };
        // Where everything stood still meanwhile, what the finger did waits until the next frame begins: it comes first.
        timer.current = setTimeout(() => requestAnimationFrame(press), LONG_PRESS_MS);
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
        // Says to a message's frame, which hands on what happens in it, that this is a swipe.
        event.preventDefault();
        // What a message's frame hands on is captured there.
        if (event.isTrusted) event.currentTarget.setPointerCapture(event.pointerId);
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
      onWheel,
    },
  };
}
