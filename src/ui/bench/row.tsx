import { memo } from "react";
import type { Marker } from "@/core/place";
import { STATE_BIT, textAt } from "@/core/columns";
import { ageText, dayText, shortTimeText } from "../parts/words";
import { TONE } from "../parts/tone";
import { WEEK_MS } from "@/core/list";
import { TRAIT } from "@/core/narrow";
import { mailbox, view } from "../state/store";
import { Marked } from "../parts/marked";

export const ROW_HEIGHT = 30;
export const TALL_ROW_HEIGHT = 66;
export const QUEUE_ROW_HEIGHT = 48;

/** How rows look: one line on a wide screen, taller for a thumb, and narrow beside the message of a pass. */
export type Look = "wide" | "tall" | "queue";
export const ROW_HEIGHTS: Readonly<Record<Look, number>> = {
  wide: ROW_HEIGHT,
  tall: TALL_ROW_HEIGHT,
  queue: QUEUE_ROW_HEIGHT,
};

/** What can change about a message while its row stays where it is; times in milliseconds, NaN for none. */
export interface RowState {
  readonly bits: number;
  readonly marker: number;
  readonly dueMs: number;
  readonly deferMs: number;
  readonly backMs: number;
  readonly awaitMs: number;
  readonly handMs: number;
}

interface Props extends RowState {
  readonly row: number;
  /** Rows are numbered anew with each: the same number may be another message then. */
  readonly generation: number;
  readonly place: number;
  readonly topPx: number;
  readonly look: Look;
  readonly focused: boolean;
  readonly ticked: boolean;
  readonly verdict: string | undefined;
  /** Why a key could do nothing for it. */
  readonly notDone: string | undefined;
  /** Passed over undecided in a pass. */
  readonly skipped: boolean;
  readonly markers: readonly Marker[];
  readonly hint: string;
  /** Where it probably belongs, and how sure that is in percent; "" for nothing to say, 0 for not sure enough. */
  readonly belongs: string;
  readonly sure: number;
  readonly nowMs: number;
  /** What the narrowing looks for in people and subjects, folded. */
  readonly sought: readonly string[];
  /** How far a finger has pulled it to one side. */
  readonly offsetPx: number;
}

/** Who a row is of: of the person's own mail that is whom it goes to. */
function whoText(row: number): string {
  const { columns } = mailbox;
  if ((columns.traits[row]! & TRAIT.mine) !== 0) return `to ${textAt(columns, "whom", row) || "nobody yet"}`;
  return textAt(columns, "fromName", row) || textAt(columns, "fromAddress", row) || "no sender";
}

/** One message of the list. What never changes about it is read from the columns; it holds nothing itself. */
export const Row = memo(function Row({
  row,
  place,
  topPx,
  look,
  focused,
  ticked,
  verdict,
  notDone,
  skipped,
  markers,
  hint,
  belongs,
  sure,
  nowMs,
  sought,
  offsetPx,
  bits,
  marker: markerId,
  dueMs: due,
  deferMs,
  backMs,
  awaitMs,
  handMs,
}: Props) {
  const { columns } = mailbox;
  const unread = (bits & STATE_BIT.read) === 0;
  const flagged = (bits & STATE_BIT.flagged) !== 0;
  const pinned = (bits & STATE_BIT.pin) !== 0;
  const owed = (bits & STATE_BIT.owed) !== 0;
  const age = nowMs - columns.dateMs[row]!;
  const old = age > WEEK_MS;
  const marker = markers.find((m) => m.id === markerId);
  const from = whoText(row);
  const subject = textAt(columns, "subject", row) || "(no subject)";
  const preview = textAt(columns, "preview", row);
  const decided = verdict !== undefined;
  const zone = view().home?.person.zone ?? "UTC";

  const tickBox = (
    <span
      aria-hidden
      data-tick
      className={`h-3 w-3 justify-self-center rounded-[2px] border-[1.5px] ${ticked ? "border-spruce bg-spruce" : "border-edge"}`}
    />
  );
  const chip = marker ? (
    <span
      className={`h-[17px] w-[17px] rounded-sm text-center font-mono text-[11px] leading-[17px] font-bold ${TONE[marker.colour]}`}
    >
      {marker.letter}
    </span>
  ) : (
    <span />
  );
  const marks = (
    <>
      {!Number.isNaN(backMs) && (
        <span
          className="num font-bold text-slate"
          title={Number.isNaN(awaitMs) ? "Back from being deferred until then" : "Nobody answered until then"}
        >
          {Number.isNaN(awaitMs) ? "back" : "no answer"} {shortTimeText(backMs, zone, nowMs)}
        </span>
      )}
      {!Number.isNaN(awaitMs) && Number.isNaN(backMs) && !decided && (
        <span className="num text-amber" title="An answer is awaited until then">
          awaited {shortTimeText(awaitMs, zone, nowMs)}
        </span>
      )}
      {!Number.isNaN(deferMs) && !decided && (
        <span className="num text-slate" title="Deferred: comes back then">
          until {shortTimeText(deferMs, zone, nowMs)}
        </span>
      )}
      {owed && (
        <span title="a reply is owed" className="text-amber">
          owed
        </span>
      )}
      {pinned && (
        <span title={Number.isNaN(handMs) ? "pinned" : "at hand until then"} className="num text-slate">
          ▪ {Number.isNaN(handMs) ? "pin" : `until ${shortTimeText(handMs, zone, nowMs)}`}
        </span>
      )}
      {flagged && (
        <span
          className={`num ${due < nowMs ? "font-bold text-brick" : "text-amber"}`}
          title="flagged, with its due date"
        >
          {Number.isNaN(due) ? "flag" : `due ${dayText(due, zone)}`}
        </span>
      )}
    </>
  );
  const stamp = decided ? (
    <span className="font-bold text-spruce">{verdict}</span>
  ) : notDone !== undefined ? (
    <span className="font-bold text-brick" title={`Not done: ${notDone}`}>
      not done: {notDone}
    </span>
  ) : (
    <>
      {hint !== "" && <span className="truncate">{hint}</span>}
      {belongs !== "" && (
        <span
          className="flex min-w-0 gap-1.5"
          title={sure > 0 ? "Where it probably belongs" : "Not sure where it belongs"}
        >
          <span className="truncate">{belongs}</span>
          <span className="num w-[2ch] shrink-0 text-right text-ink-3">{sure > 0 ? sure : "–"}</span>
        </span>
      )}
    </>
  );
  const faded = decided ? "text-ink-3" : "";
  const weight = unread && !decided ? "font-bold" : "";
  const description = `${from}. ${subject}.${unread ? " Unread." : ""}${decided ? ` Decided, ${verdict}.` : ""}${notDone === undefined ? "" : ` Not done: ${notDone}.`}${sure > 0 && !decided ? ` Probably ${belongs}, ${sure} percent.` : ""}`;
  const common = {
    role: "option" as const,
    id: `row-${columns.id[row]}`,
    "aria-selected": ticked,
    "aria-posinset": place + 1,
    "aria-label": description,
    "data-place": place,
    "data-id": columns.id[row],
    "data-focused": focused || undefined,
  };
  const pulled = offsetPx === 0 ? {} : { transform: `translateX(${offsetPx}px)` };
  const frame = `${ticked ? "bg-spruce-soft" : ""} ${focused ? "shadow-[inset_0_0_0_2px_var(--ink)]" : ""} border-b border-rule-soft absolute inset-x-0 cursor-default contain-strict`;

  if (look === "queue")
    return (
      <div
        {...common}
        style={{ top: topPx, height: QUEUE_ROW_HEIGHT, ...pulled }}
        className={`grid grid-cols-[40px_1fr] items-center gap-x-2 border-b border-rule-soft px-2.5 text-[13px] contain-strict absolute inset-x-0 cursor-default ${focused ? "bg-sheet shadow-[inset_4px_0_0_0_var(--ink)]" : "bg-well"} ${ticked ? "bg-spruce-soft" : ""}`}
      >
        <span
          className={`num self-start pt-1.5 text-right text-xs ${old && !decided ? "font-bold text-amber" : "text-ink-2"}`}
        >
          {ageText(age)}
        </span>
        <span className={`min-w-0 ${decided ? "text-ink-3 line-through" : skipped ? "text-ink-3" : ""}`}>
          <span className={`block truncate ${decided ? "" : "font-semibold"}`}>{from}</span>
          <span className="block truncate">
            {notDone !== undefined && !decided ? (
              <b className="text-brick">not done: {notDone}</b>
            ) : verdict === undefined ? (
              subject
            ) : (
              `${verdict} · ${subject}`
            )}
          </span>
        </span>
      </div>
    );
  if (look === "tall")
    return (
      <div
        {...common}
        style={{ top: topPx, height: TALL_ROW_HEIGHT, ...pulled }}
        className={`grid grid-cols-[44px_1fr] gap-x-2 px-2.5 py-2 ${frame}`}
      >
        <div className="flex flex-col items-end gap-1.5">
          <span className={`num text-[13px] ${old && !decided ? "font-bold text-amber" : "text-ink-2"}`}>
            {ageText(age)}
          </span>
          {ticked ? tickBox : chip}
        </div>
        <div className={`min-w-0 ${faded}`}>
          <div className="flex justify-between gap-2">
            <span className={`truncate ${unread && !decided ? "font-bold" : "font-medium"}`}>
              <Marked text={from} sought={sought} />
            </span>
            <span className="flex max-w-[60%] min-w-0 shrink-0 gap-2 text-xs whitespace-nowrap text-ink-2">
              {stamp}
            </span>
          </div>
          <div className={`truncate ${decided ? "line-through" : ""}`}>
            <Marked text={subject} sought={sought} />
          </div>
          <div className="flex gap-2 truncate text-xs text-ink-3">
            {marks} <span className="truncate">{preview}</span>
          </div>
        </div>
      </div>
    );
  return (
    <div
      {...common}
      style={{ top: topPx, height: ROW_HEIGHT, ...pulled }}
      className={`grid grid-cols-[20px_20px_38px_minmax(80px,138px)_minmax(0,1fr)_auto] items-center gap-2 pr-2.5 pl-2 text-[13.5px] whitespace-nowrap ${frame}`}
    >
      {tickBox}
      {chip}
      <span className={`num text-right text-xs ${old && !decided ? "font-bold text-amber" : "text-ink-2"}`}>
        {ageText(age)}
      </span>
      <span className={`truncate ${weight} ${faded}`}>
        <Marked text={from} sought={sought} />
      </span>
      <span className={`truncate ${faded}`}>
        <span className={`${weight} ${decided ? "line-through" : ""}`}>
          <Marked text={subject} sought={sought} />
        </span>{" "}
        <span className="text-ink-3">
          <Marked text={preview} sought={sought} />
        </span>
      </span>
      <span className="flex max-w-48 items-center gap-2 truncate text-xs text-ink-2">
        {marks}
        {stamp}
      </span>
    </div>
  );
});
