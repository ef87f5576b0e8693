import { useEffect, useLayoutEffect, useRef, useState, type RefObject, type UIEvent } from "react";
import { scrolledTo, viewportOf, type Listing, type Viewport } from "@/core/list";
import { provide } from "./commands";

/** What is in sight before the list has been measured. */
const USUAL_PX = 600;

interface InSight extends Viewport {
  /** What scrolls. */
  readonly box: RefObject<HTMLDivElement | null>;
  readonly onScroll: (event: UIEvent<HTMLElement>) => void;
}

/** The part of the list that is drawn: measured, scrolled, and kept where the focus is. */
export function useViewport(listing: Listing, focus: number, rowPx: number): InSight {
  const box = useRef<HTMLDivElement>(null);
  const [scrolledPx, setScrolled] = useState(0);
  const [heightPx, setHeight] = useState(USUAL_PX);
  const rows = listing.items.length;

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => setHeight(element.clientHeight);
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  useEffect(() => provide({ pageRows: () => Math.floor(heightPx / rowPx) }), [heightPx, rowPx]);

  // Keeps the focused row in sight, before the frame is painted.
  useLayoutEffect(() => {
    const element = box.current;
    if (!element || focus < 0) return;
    const to = scrolledTo(focus, { rows, rowPx, heightPx, scrolledPx: element.scrollTop });
    if (to !== element.scrollTop) element.scrollTop = to;
    setScrolled(element.scrollTop);
  }, [focus, heightPx, rowPx, listing, rows]);

  return {
    box,
    ...viewportOf({ rows, rowPx, heightPx, scrolledPx }),
    onScroll: (event) => setScrolled(event.currentTarget.scrollTop),
  };
}
