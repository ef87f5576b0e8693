"use client";
import type { MacroShape } from "@/core/api";
import { TONE } from "../parts/tone";
import type { Swiping } from "../input/swipe";

interface Props {
  readonly swiping: Swiping;
  readonly macro: MacroShape | undefined;
  readonly topPx: number;
  readonly heightPx: number;
  /** How many messages letting go would act on. */
  readonly count: number;
}

/** What stands beneath a row that follows the finger: the name of what letting go would do. */
export function SwipeStrip({ swiping, macro, topPx, heightPx, count }: Props) {
  const right = swiping.offsetPx > 0;
  const tone = swiping.shows && macro ? TONE[macro.colour] : "bg-well text-ink-2";
  const text = swiping.shows === null ? "" : macro ? macro.name : "no macro is on this swipe";
  return (
    <div
      aria-hidden
      data-strip
      style={{ top: topPx, height: heightPx, width: Math.abs(swiping.offsetPx), [right ? "left" : "right"]: 0 }}
      className={`absolute z-10 flex items-center overflow-hidden px-3 text-[13px] font-bold whitespace-nowrap ${right ? "" : "justify-end"} ${tone}`}
    >
      {text}
      {text !== "" && count > 1 && ` · ${count}`}
    </div>
  );
}
