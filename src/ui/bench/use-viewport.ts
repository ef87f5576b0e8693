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

/** Less than a pixel apart is the browser's rounding. */
const ROUNDING_PX = 1;

/**
 * The part of the list that is drawn: measured, scrolled, and kept where the focus is. Where it scrolls to is
 * worked out before anything is drawn, and the scroll bar is not asked where it stands but where it was moved:
 * being asked, the browser lays out all that has changed, once for the question and once more to paint.
 * @param asked what the person has chosen: what has the focus, and what is listed and how
 */
export function useViewport(listing: Listing, focus: number, rowPx: number, asked: readonly unknown[]): InSight {
  const box = useRef<HTMLDivElement>(null);
  const bar = useRef(0);
  const [scrolledPx, setScrolled] = useState(0);
  const [heightPx, setHeight] = useState(USUAL_PX);
  const [kept, setKept] = useState<unknown[]>([]);
  const rows = listing.items.length;
  const scrolling = { rows, rowPx, heightPx, scrolledPx };
  const viewport = viewportOf(scrolling);

  // The focused row comes into sight when it, or the list around it, is another one; but whoever has scrolled away from
  // it is not brought back by what others do.
  const now = [heightPx, rowPx, ...asked, focus, listing];
  const differs = now.map((one, i) => one !== kept[i]);
  if (differs.includes(true)) {
    setKept(now);
    const isNews = !differs.slice(0, -2).includes(true);
    const isLeft = isNews && scrolledTo(kept.at(-2) as number, scrolling) !== scrolledPx;
    const to = focus < 0 || isLeft ? scrolledPx : scrolledTo(focus, scrolling);
    setScrolled(Math.min(to, Math.max(0, viewport.drawnPx - heightPx)));
  }

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

  useLayoutEffect(() => {
    if (bar.current === scrolledPx || !box.current) return;
    bar.current = scrolledPx;
    box.current.scrollTop = scrolledPx;
  }, [scrolledPx]);

  return {
    box,
    ...viewport,
    onScroll: ({ currentTarget: { scrollTop } }) => {
      if (Math.abs(scrollTop - bar.current) < ROUNDING_PX) return;
      bar.current = scrollTop;
      setScrolled(scrollTop);
    },
  };
}
