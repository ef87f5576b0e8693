import { useEffect, useRef, type RefObject } from "react";

type Block = "nearest" | "start";

/**
 * Scrolls to a part of a box, and keeps it in view while what stands above it comes in: what is gone to before the
 * figures are there would be pushed out of sight by them. A wheel or a finger ends that.
 * @param box what scrolls; its one child is what grows
 * @returns goes to the part that a selector names
 */
export function useKeptInView(box: RefObject<HTMLElement | null>): (selector: string, block: Block) => void {
  const kept = useRef<{ readonly selector: string; readonly block: Block } | null>(null);
  const show = useRef(() => {
    if (kept.current) box.current?.querySelector(kept.current.selector)?.scrollIntoView({ block: kept.current.block });
  });
  useEffect(() => {
    const element = box.current!;
    const content = element.firstElementChild!;
    const observer = new ResizeObserver(() => show.current());
    observer.observe(content);
    const letGo = () => (kept.current = null);
    for (const hand of HANDS) element.addEventListener(hand, letGo, { passive: true });
    return () => {
      observer.disconnect();
      for (const hand of HANDS) element.removeEventListener(hand, letGo);
    };
  }, [box]);
  return (selector, block) => {
    kept.current = { selector, block };
    show.current();
  };
}

const HANDS = ["wheel", "pointerdown", "touchstart"] as const;
