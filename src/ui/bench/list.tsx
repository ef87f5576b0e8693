"use client";
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type MouseEvent } from "react";
import { groupOf, isHead, isSelected } from "@/core/list";
import { soughtIn } from "@/core/narrow";
import type { Swipe } from "@/core/swipe";
import { useSwipe } from "../input/swipe";
import { expressionOf, focusMessage, foldGroup } from "../state/browse";
import { moveTo, tick } from "../state/select";
import { runMacro, targetsOf } from "../state/run";
import { mailbox, notify, set, useView } from "../state/store";
import { useNow } from "../parts/now";
import { provide } from "./commands";
import { groupName, Head } from "./head";
import { Row, ROW_HEIGHT, TALL_ROW_HEIGHT } from "./row";
import { SwipeStrip } from "./swipe-strip";

/** Rows drawn beyond the edges, so that a fast scroll meets drawn ones. */
const BEYOND = 12;
const ROWS_IN_BLOCK = 500;
/** Browsers draw nothing as tall as a million rows: past this the scroll bar stands for a longer list. */
const TALLEST_PX = 16_000_000;

function emptyText(place: string, conditions: readonly string[], loading: boolean, searching: boolean): string {
  if (searching) return "Searching the words of your mail…";
  if (loading) return "Messages are still being read…";
  if (conditions.length > 0) return "Nothing matches. Press , to drop the last condition.";
  return place === "" ? "There is no mail yet. Press ; and choose Import to bring some in." : "Nothing is left here.";
}

/** The list over the column index: whatever its length, only the rows in sight exist. */
export function List({ tall }: { readonly tall: boolean }) {
  const listing = useView((v) => v.listing);
  const grouping = useView((v) => v.group);
  const focus = useView((v) => v.focus);
  const selection = useView((v) => v.selection);
  const selected = useView((v) => v.selected);
  const decided = useView((v) => v.decided);
  const version = useView((v) => v.version);
  const directory = useView((v) => v.directory);
  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const loading = useView((v) => v.loading !== null);
  const searching = useView((v) => v.searching);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const macros = useView((v) => v.macros);
  const deck = useView((v) => v.decks.find((d) => d.number === v.deck));
  const box = useRef<HTMLDivElement>(null);
  const [scrolled, setScrolled] = useState(0);
  const [height, setHeight] = useState(600);
  const nowMs = useNow(60_000);
  const rowHeight = tall ? TALL_ROW_HEIGHT : ROW_HEIGHT;
  const { items, groups } = listing;
  const sought = useMemo(() => soughtIn(expressionOf(place, conditions)), [place, conditions]);

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => setHeight(element.clientHeight);
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  useEffect(() => provide({ pageRows: () => Math.floor(height / rowHeight) }), [height, rowHeight]);

  const wholePx = items.length * rowHeight;
  const drawnPx = Math.min(wholePx, TALLEST_PX);
  /** How many pixels of the list one pixel of the scroll bar stands for. */
  const scale = drawnPx < wholePx ? (wholePx - height) / (drawnPx - height) : 1;
  const top = scrolled * scale;
  const shiftPx = scrolled - top;

  // Keeps the focused row in sight, before the frame is painted.
  useLayoutEffect(() => {
    const element = box.current;
    if (!element || focus < 0) return;
    const from = focus * rowHeight;
    const margin = Math.min(rowHeight, Math.max(0, (height - rowHeight) / 2));
    const shown = element.scrollTop * scale;
    if (from - margin < shown) element.scrollTop = (from - margin) / scale;
    else if (from + rowHeight + margin > shown + height)
      element.scrollTop = (from + rowHeight + margin - height) / scale;
    setScrolled(element.scrollTop);
  }, [focus, height, rowHeight, listing, scale]);

  const first = Math.max(0, Math.floor(top / rowHeight) - BEYOND);
  const last = Math.min(items.length, Math.ceil((top + height) / rowHeight) + BEYOND);
  const folders = new Map(directory.folders.map((f) => [f.id as number, f.path]));
  const showFolder = !place.startsWith("folder=");
  const labels = new Map(directory.labels.map((label) => [label.id as number, label.name]));

  const selectedIn = (group: number) =>
    listing.members(group).filter((row) => isSelected(selection, mailbox.columns.id[row]!)).length;
  const hintOf = (row: number): string => {
    const names = mailbox.columns.labelSets[mailbox.columns.labelSet[row]!]!.map((id) => labels.get(id) ?? "").filter(
      Boolean,
    );
    const folder = showFolder ? (folders.get(mailbox.columns.folder[row]!) ?? "") : "";
    return [...names, folder].filter(Boolean).join(", ");
  };

  const swipeMacro = (swipe: Swipe | null) =>
    macros.find((macro) => swipe !== null && macro.id === deck?.swipes[swipe]);
  const { swiping, isSpent, pointers } = useSwipe({
    rowOf: (target) => {
      const element = (target as HTMLElement).closest<HTMLElement>("[data-id]");
      const id = element?.dataset.id;
      return element && id && !decided.has(Number(id)) ? { row: id, widthPx: element.clientWidth } : null;
    },
    onSwipe: (row, swipe) => {
      const macro = swipeMacro(swipe);
      if (!macro) return notify("No macro is on this swipe. Put one there in the workshop.");
      focusMessage(Number(row));
      runMacro(macro, selected > 0 ? {} : { ids: targetsOf(macro, [Number(row)]) });
    },
    onLongPress: (row) => {
      if (focusMessage(Number(row))) tick();
    },
  });
  const press = (event: MouseEvent<HTMLDivElement>) => {
    if (isSpent()) return;
    const element = (event.target as HTMLElement).closest<HTMLElement>("[data-place]");
    if (!element) return;
    const at = Number(element.dataset.place);
    const onTick = (event.target as HTMLElement).closest("[data-tick]") !== null || event.ctrlKey || event.metaKey;
    moveTo(at, event.shiftKey);
    if (event.shiftKey) return;
    if (onTick) tick(at);
    else if (element.dataset.head !== undefined) foldGroup();
    else set({ opened: true });
  };

  // Rows stand in a block that moves with the scroll bar; within it they keep their places for hundreds of rows, so
  // that only those which come into sight are drawn.
  const base = Math.floor(first / ROWS_IN_BLOCK) * ROWS_IN_BLOCK;
  const visible: number[] = [];
  for (let at = first; at < last; at++) visible.push(at);
  const focused = items[focus];
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
      onScroll={(event) => setScrolled(event.currentTarget.scrollTop)}
      onClick={press}
      {...pointers}
      className="relative h-full min-h-0 touch-pan-y overflow-x-hidden overflow-y-auto bg-sheet outline-offset-[-2px] select-none focus-visible:outline-1"
    >
      {items.length === 0 ? (
        <p role="option" aria-selected={false} className="p-6 text-ink-2">
          {emptyText(place, conditions, loading, searching)}
        </p>
      ) : (
        <div role="presentation" style={{ height: drawnPx }}>
          {swiping && (
            <SwipeStrip
              swiping={swiping}
              macro={swipeMacro(swiping.shows)}
              topPx={listing.placeOf(mailbox.rowOf(Number(swiping.row)) ?? -1) * rowHeight + shiftPx}
              heightPx={rowHeight}
              count={Math.max(1, selected)}
            />
          )}
          <div role="presentation" className="absolute inset-x-0" style={{ top: base * rowHeight + shiftPx }}>
            {visible.map((at) => {
              const row = items[at]!;
              if (isHead(row)) {
                const group = groups[groupOf(row)]!;
                return (
                  <Head
                    key={`head ${group.key}`}
                    group={group}
                    name={groupName(group, grouping, directory, zone)}
                    place={at}
                    topPx={(at - base) * rowHeight}
                    heightPx={rowHeight}
                    focused={at === focus}
                    selected={selected === 0 ? 0 : selectedIn(groupOf(row))}
                  />
                );
              }
              const id = mailbox.columns.id[row]!;
              return (
                <Row
                  key={id}
                  row={row}
                  place={at}
                  topPx={(at - base) * rowHeight}
                  tall={tall}
                  focused={at === focus}
                  ticked={selected > 0 && isSelected(selection, id) && !decided.has(id)}
                  verdict={decided.get(id)}
                  markers={directory.markers}
                  hint={hintOf(row)}
                  nowMs={nowMs}
                  sought={sought}
                  version={version}
                  offsetPx={swiping?.row === String(id) ? swiping.offsetPx : 0}
                />
              );
            })}
          </div>
        </div>
      )}
    </div>
  );
}
