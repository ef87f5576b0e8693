"use client";
import { isHead } from "@/core/list";
import { countText } from "../parts/words";
import { DEFERRED, placeOf } from "../state/places";
import { mailbox, useView } from "../state/store";
import { useCounts } from "../state/tally";
import { ListRows } from "./list-rows";
import { ROW_HEIGHTS, type Look } from "./row";
import { SwipeStrip } from "./swipe-strip";
import { useListPointers } from "./use-list-pointers";
import { useViewport } from "./use-viewport";

function emptyText(place: string, conditions: readonly string[], loading: boolean, searching: boolean): string {
  if (searching) return "Searching your mail…";
  if (loading) return "Messages are still being read…";
  if (conditions.length > 0) return "Nothing matches. Press , to drop the last condition.";
  if (mailbox.columns.count === 0)
    return "There is no mail here yet. Accounts connects an account of yours, Import brings files of mail in.";
  if (place === DEFERRED) return "Nothing is deferred. A message that is deferred waits here until its time.";
  return "Nothing is left here.";
}

/** Where there is most to do next: the folder of the person's own with the most unread mail, else the inbox. */
function useNextPlace(): { readonly name: string; readonly place: string; readonly count: number } | null {
  const folders = useView((v) => v.directory.folders);
  const place = useView((v) => v.place);
  const counts = useCounts();
  const others = folders
    .filter((folder) => (folder.role === null || folder.role === "inbox") && placeOf(folder) !== place)
    .map((folder) => ({ name: folder.path, place: placeOf(folder), count: counts.folder(folder.id)?.unread ?? 0 }))
    .filter(({ count }) => count > 0)
    .sort((a, b) => b.count - a.count);
  return others.find(({ name }) => folders.find((f) => f.path === name)?.role === "inbox") ?? others[0] ?? null;
}

function Empty() {
  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const loading = useView((v) => v.loading !== null);
  const searching = useView((v) => v.searching);
  const next = useNextPlace();
  const isOver = !loading && !searching && conditions.length === 0;
  return (
    <div role="option" aria-selected={false} className="p-6 text-ink-2">
      <p>{emptyText(place, conditions, loading, searching)}</p>
      {isOver && (
        <p className="mt-2">
          {next && (
            <>
              Next: {next.name}, {countText(next.count)} unread.{" "}
            </>
          )}
          <span className="max-md:hidden">
            Press <kbd>;</kbd> to go to any other place.
          </span>
        </p>
      )}
    </div>
  );
}

/** The list over the column index: whatever its length, only the rows in sight exist. */
export function List({ look }: { readonly look: Look }) {
  const listing = useView((v) => v.listing);
  const focus = useView((v) => v.focus);
  const selected = useView((v) => v.selected);
  const rowPx = ROW_HEIGHTS[look];
  const focusId = useView((v) => v.focusId);
  const focusGroup = useView((v) => v.focusGroup);
  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const order = useView((v) => v.order);
  const group = useView((v) => v.group);
  const asked = [focusId, focusGroup, place, conditions, order, group];
  const { box, onScroll, ...viewport } = useViewport(listing, focus, rowPx, asked);
  const { swiping, pointers, press, macroOn } = useListPointers(look === "tall");
  const focused = listing.items[focus];
  const activeId =
    focused === undefined ? undefined : isHead(focused) ? `head-${focus}` : `row-${mailbox.columns.id[focused]}`;
  return (
    <div
      ref={box}
      role="listbox"
      id="messages"
      aria-label="Messages"
      aria-multiselectable
      aria-activedescendant={activeId}
      tabIndex={0}
      onScroll={onScroll}
      onClick={press}
      {...pointers}
      className="relative h-full min-h-0 contain-strict touch-pan-y overflow-x-hidden overflow-y-auto bg-sheet outline-offset-[-2px] select-none focus-visible:outline-1"
    >
      {listing.items.length === 0 ? (
        <Empty />
      ) : (
        <div role="presentation" style={{ height: viewport.drawnPx }}>
          {swiping && (
            <SwipeStrip
              swiping={swiping}
              macro={macroOn(swiping.shows)}
              topPx={listing.placeOf(mailbox.rowOf(Number(swiping.row)) ?? -1) * rowPx + viewport.shiftPx}
              heightPx={rowPx}
              count={Math.max(1, selected)}
            />
          )}
          <ListRows viewport={viewport} rowPx={rowPx} look={look} swiping={swiping} />
        </div>
      )}
    </div>
  );
}
