"use client";
import { SwipeStrip } from "../bench/swipe-strip";
import { List } from "../bench/list";
import { useListPointers } from "../bench/use-list-pointers";
import { useNarrowScreen } from "../parts/narrow-screen";
import { Reader } from "../reader/reader";
import { useView, type Pass as PassShape } from "../state/store";
import { PassEnd } from "./pass-end";

/** The message of a pass: all of it can be swiped, as a row of a list can. */
function Card() {
  const focusId = useView((v) => v.focusId);
  const { swiping, pointers, macroOn } = useListPointers(true);
  const moved = swiping ? { transform: `translateX(${swiping.offsetPx}px)` } : {};
  return (
    <div className="relative h-full min-h-0 overflow-hidden">
      {swiping && <SwipeStrip swiping={swiping} macro={macroOn(swiping.shows)} topPx={0} heightPx={120} count={1} />}
      <div data-id={focusId ?? undefined} {...pointers} style={moved} className="h-full min-h-0 touch-pan-y">
        <Reader large />
      </div>
    </div>
  );
}

/** One message after another: it stands large, and the queue beside it. */
export function PassView({ pass }: { readonly pass: PassShape }) {
  const phone = useNarrowScreen();
  return (
    <div className="grid min-h-0 flex-1 md:grid-cols-[minmax(0,1fr)_300px]">
      {pass.ended ? <PassEnd pass={pass} /> : <Card />}
      {!phone && (
        <div className="flex min-h-0 flex-col border-l border-rule">
          <h2 className="px-3.5 pt-2.5 pb-1 text-[12px] font-semibold text-ink-2">Queue</h2>
          <div className="min-h-0 flex-1">
            <List look="queue" />
          </div>
        </div>
      )}
    </div>
  );
}
