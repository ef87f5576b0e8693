import { useCallback, useEffect, useRef, useState, type PointerEvent as Pressed, type RefObject } from "react";
import type { TaskShape } from "@/core/api";
import type { Day, Shown } from "./shown";

/** Pulling on the hours of days: to move something, to make it longer, to make something new, to give a task time. */

export const SNAP_MINUTES = 15;

export type Pull =
  | { readonly kind: "move" | "end"; readonly shown: Shown }
  | { readonly kind: "task"; readonly task: TaskShape; readonly minutes: number }
  | { readonly kind: "new" };

/** Where it is pulled to. */
export interface Spot {
  readonly day: Day;
  /** Minutes of the day, at full quarters of an hour. */
  readonly from: number;
  readonly to: number;
}

interface Pulled {
  readonly pull: Pull;
  /** Null where it is nowhere. */
  readonly spot: Spot | null;
}

interface Begun {
  readonly pull: Pull;
  readonly x: number;
  readonly y: number;
  /** What is taken hold of: minutes from its beginning. */
  readonly grip: number;
  readonly origin: Spot | null;
}

const DAY_MINUTES = 24 * 60;
/** A hand that trembles does not pull. */
const LEAST_PX = 5;
const snap = (minutes: number): number => Math.round(minutes / SNAP_MINUTES) * SNAP_MINUTES;

function spotOf({ pull, grip, origin }: Begun, day: Day, minute: number): Spot {
  if (pull.kind === "end" && origin)
    return { ...origin, to: Math.min(DAY_MINUTES, Math.max(origin.from + SNAP_MINUTES, snap(minute))) };
  if (pull.kind === "new" && origin) {
    const [a, b] = [origin.from, snap(minute)].sort((one, other) => one - other) as [number, number];
    return { day: origin.day, from: a, to: Math.max(a + SNAP_MINUTES, b) };
  }
  const length = pull.kind === "task" ? pull.minutes : origin!.to - origin!.from;
  const from = Math.min(DAY_MINUTES - SNAP_MINUTES, Math.max(0, snap(minute - grip)));
  return { day, from, to: Math.min(DAY_MINUTES, from + length) };
}

/**
 * @param columns the elements of the days, each with its day in data-day and as high as a day is long
 * @param onDrop where it was let go; null where that was nowhere, or it was only pressed
 */
export function useGridPull(columns: RefObject<HTMLElement | null>, onDrop: (pull: Pull, spot: Spot) => void) {
  const begun = useRef<Begun | null>(null);
  const pulled = useRef<Pulled | null>(null);
  const [now, setNow] = useState<Pulled | null>(null);
  const drop = useRef(onDrop);
  useEffect(() => {
    drop.current = onDrop;
  });
  useEffect(() => {
    const under = (x: number, y: number): { readonly day: Day; readonly minute: number } | null => {
      for (const column of columns.current?.querySelectorAll<HTMLElement>("[data-day]") ?? []) {
        const box = column.getBoundingClientRect();
        if (x < box.left || x >= box.right) continue;
        const shown = columns.current!.getBoundingClientRect();
        if (y < shown.top || y > shown.bottom) return null;
        return { day: column.dataset.day!, minute: ((y - box.top) / box.height) * DAY_MINUTES };
      }
      return null;
    };
    const at = (held: Begun, { clientX, clientY }: PointerEvent): Spot | null => {
      const found = under(clientX, clientY);
      return found && spotOf(held, found.day, found.minute);
    };
    const show = (next: Pulled | null) => {
      pulled.current = next;
      setNow(next);
    };
    const move = (event: PointerEvent) => {
      const held = begun.current;
      if (!held) return;
      const far = Math.hypot(event.clientX - held.x, event.clientY - held.y) >= LEAST_PX;
      if (pulled.current || far) show({ pull: held.pull, spot: at(held, event) });
    };
    const up = (event: PointerEvent) => {
      const held = begun.current;
      const spot = held && pulled.current ? at(held, event) : null;
      begun.current = null;
      show(null);
      if (held && spot) drop.current(held.pull, spot);
    };
    const cancel = (event: KeyboardEvent) => {
      if (event.key !== "Escape" || !begun.current) return;
      event.stopPropagation();
      begun.current = null;
      show(null);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    window.addEventListener("pointercancel", up);
    window.addEventListener("keydown", cancel, true);
    return () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      window.removeEventListener("pointercancel", up);
      window.removeEventListener("keydown", cancel, true);
    };
  }, [columns]);
  /** Takes hold of something. A finger scrolls instead. @param origin where it is now */
  const hold = useCallback(
    (event: Pressed, pull: Pull, origin: Spot | null) => {
      if (event.button !== 0 || event.pointerType === "touch") return;
      const box = origin && columns.current?.querySelector(`[data-day="${origin.day}"]`)?.getBoundingClientRect();
      const minute = box ? ((event.clientY - box.top) / box.height) * DAY_MINUTES : 0;
      const grip = origin && pull.kind === "move" ? minute - origin.from : 0;
      begun.current = { pull, x: event.clientX, y: event.clientY, grip, origin };
    },
    [columns],
  );
  return { now, hold };
}
