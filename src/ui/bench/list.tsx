"use client";
import { useEffect, useLayoutEffect, useRef, useState, type MouseEvent } from "react";
import type { Swipe } from "@/core/swipe";
import { useSwipe } from "../input/swipe";
import { focusMessage, moveTo, tick } from "../state/browse";
import { runMacro, targetsOf } from "../state/run";
import { placeOf } from "../state/list";
import { mailbox, notify, set, useView } from "../state/store";
import { useNow } from "../parts/now";
import { provide } from "./commands";
import { Row, ROW_HEIGHT, TALL_ROW_HEIGHT } from "./row";
import { SwipeStrip } from "./swipe-strip";

/** Rows drawn beyond the edges, so that a fast scroll meets drawn ones. */
const BEYOND = 12;

function emptyText(place: string, conditions: readonly string[], loading: boolean): string {
  if (loading) return "Messages are still being read…";
  if (conditions.length > 0) return "Nothing matches. Press , to drop the last condition.";
  return place === "" ? "There is no mail yet. Press ; and choose Import to bring some in." : "Nothing is left here.";
}

/** The list over the column index: whatever its length, only the rows in sight exist. */
export function List({ tall }: { readonly tall: boolean }) {
  const rows = useView((v) => v.rows);
  const focus = useView((v) => v.focus);
  const ticked = useView((v) => v.ticked);
  const decided = useView((v) => v.decided);
  const version = useView((v) => v.version);
  const directory = useView((v) => v.directory);
  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const loading = useView((v) => v.loading !== null);
  const order = useView((v) => v.order);
  const macros = useView((v) => v.macros);
  const deck = useView((v) => v.decks.find((d) => d.number === v.deck));
  const box = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0);
  const [height, setHeight] = useState(600);
  const nowMs = useNow(60_000);
  const rowHeight = tall ? TALL_ROW_HEIGHT : ROW_HEIGHT;

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

  // Keeps the focused row in sight, before the frame is painted.
  useLayoutEffect(() => {
    const element = box.current;
    if (!element || focus < 0) return;
    const from = focus * rowHeight;
    const margin = Math.min(rowHeight, Math.max(0, (height - rowHeight) / 2));
    if (from - margin < element.scrollTop) element.scrollTop = from - margin;
    else if (from + rowHeight + margin > element.scrollTop + height)
      element.scrollTop = from + rowHeight + margin - height;
    setTop(element.scrollTop);
  }, [focus, height, rowHeight, rows]);

  const first = Math.max(0, Math.floor(top / rowHeight) - BEYOND);
  const last = Math.min(rows.length, Math.ceil((top + height) / rowHeight) + BEYOND);
  const folders = new Map(directory.folders.map((f) => [f.id as number, f.path]));
  const showFolder = !place.startsWith("folder=");
  const labels = new Map(directory.labels.map((label) => [label.id as number, label.name]));

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
      runMacro(macro, ticked.size > 0 ? {} : { ids: targetsOf(macro, [Number(row)]) });
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
    if (onTick && !event.shiftKey) tick(at);
    else if (!event.shiftKey) set({ opened: true });
  };

  const visible: number[] = [];
  for (let at = first; at < last; at++) visible.push(at);
  const focusedRow = rows[focus];
  return (
    <div
      ref={box}
      role="listbox"
      id="messages"
      aria-label="Messages"
      aria-multiselectable
      aria-activedescendant={focusedRow === undefined ? undefined : `row-${mailbox.columns.id[focusedRow]}`}
      tabIndex={0}
      onScroll={(event) => setTop(event.currentTarget.scrollTop)}
      onClick={press}
      {...pointers}
      className="relative h-full min-h-0 touch-pan-y overflow-x-hidden overflow-y-auto bg-sheet outline-offset-[-2px] select-none focus-visible:outline-1"
    >
      {rows.length === 0 ? (
        <p role="option" aria-selected={false} className="p-6 text-ink-2">
          {emptyText(place, conditions, loading)}
        </p>
      ) : (
        <div role="presentation" style={{ height: rows.length * rowHeight }}>
          {swiping && (
            <SwipeStrip
              swiping={swiping}
              macro={swipeMacro(swiping.shows)}
              topPx={placeOf(rows, mailbox.rowOf(Number(swiping.row)) ?? -1, order) * rowHeight}
              heightPx={rowHeight}
              count={Math.max(1, ticked.size)}
            />
          )}
          {visible.map((at) => {
            const row = rows[at]!;
            const id = mailbox.columns.id[row]!;
            return (
              <Row
                key={id}
                row={row}
                place={at}
                tall={tall}
                focused={at === focus}
                ticked={ticked.has(id)}
                verdict={decided.get(id)}
                markers={directory.markers}
                hint={hintOf(row)}
                nowMs={nowMs}
                version={version}
                offsetPx={swiping?.row === String(id) ? swiping.offsetPx : 0}
              />
            );
          })}
        </div>
      )}
    </div>
  );
}
