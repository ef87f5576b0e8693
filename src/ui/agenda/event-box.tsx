import { memo } from "react";
import type { CalendarShape, TaskShape } from "@/core/api";
import type { Shown } from "./shown";
import { beginsText, EDGE, FILL, kindText, timeText, titleOf } from "./words";

interface Props {
  readonly shown: Shown;
  readonly tasks: ReadonlyMap<number, TaskShape>;
  readonly calendar: CalendarShape | undefined;
  readonly zone: string;
  readonly focused: boolean;
  readonly over: boolean;
  /** Where it stands among the hours, minutes of its day, with what is beside it; above them it is a line. */
  readonly from?: number;
  readonly to?: number;
  readonly lane?: number;
  readonly lanes?: number;
}

/** So many beside one another, and each is narrower than a word. */
const NARROW = 3;
/** What of a text is not seen as a whole line is not seen at all. */
export const WHOLE_LINES = "block max-h-[max(1lh,round(down,100%,1lh))] overflow-hidden";
const PERCENT_A_MINUTE = 100 / (24 * 60);

/** The key of the event that was pressed. */
export const keyUnder = (target: EventTarget): string | undefined =>
  target instanceof Element ? target.closest<HTMLElement>("[data-event]")?.dataset.event : undefined;

export function focusOn(target: EventTarget, onFocus: (key: string) => void): void {
  const key = keyUnder(target);
  if (key !== undefined) onFocus(key);
}

/**
 * One time of an event. What is pressed on it is told by the key it carries, and whether it was its end: of hundreds
 * that stand there, a key that moves the focus draws two anew.
 */
export const EventBox = memo(function EventBox(props: Props) {
  const { shown, tasks, calendar, zone, focused, over, from, to = 0, lane = 0, lanes = 1 } = props;
  const { event } = shown;
  const colour = calendar?.colour ?? "spruce";
  const kind = kindText(event);
  const title = titleOf(event, tasks);
  const done = event.task !== null && tasks.get(event.task)?.done;
  const placed = from !== undefined;
  const style = placed
    ? {
        top: `${from * PERCENT_A_MINUTE}%`,
        height: `${Math.max(15, to - from) * PERCENT_A_MINUTE}%`,
        left: `calc(${(lane / lanes) * 100}% + 1px)`,
        width: `calc(${100 / lanes}% - 3px)`,
      }
    : undefined;
  const isShort = placed && to - from < 45;
  // Words are never broken, which would make columns of letters: what of one does not fit is cut off.
  const isNarrow = lanes >= NARROW;
  return (
    <div
      data-event={shown.key}
      aria-current={focused || undefined}
      title={`${title}, ${timeText(shown, zone)}${event.place && `, ${event.place}`}`}
      style={style}
      className={`overflow-hidden text-left text-xs leading-[1.3] ${placed ? "border-t-[3px]" : "border-b-2"} ${EDGE[colour]} ${event.busy && !over ? FILL[colour] : "bg-sheet"} ${event.block !== null ? "border-dashed" : ""} ${placed ? `absolute cursor-grab ${isNarrow ? "px-1" : "px-1.5 max-sm:px-0.5"}` : "px-1.5 py-px"} ${focused ? "z-20 shadow-[inset_0_0_0_2px_var(--ink)]" : placed ? "shadow-[inset_0_0_0_1px_var(--rule)]" : ""} ${over ? "text-ink-2" : ""}`}
    >
      <span className={placed && !isShort ? WHOLE_LINES : "block"}>
        <span
          className={`block ${isShort || !placed ? "truncate" : isNarrow ? "overflow-hidden whitespace-nowrap" : "overflow-hidden"} font-semibold ${done ? "line-through" : ""}`}
        >
          {event.state === "tentative" && "? "}
          {title}
          {isShort && <span className="num font-normal text-ink-2"> {beginsText(shown, zone)}</span>}
        </span>
        {placed && !isShort && (
          <span className="num block truncate text-ink-2">
            {beginsText(shown, zone)}
            {event.place && ` ${event.place}`}
          </span>
        )}
        {placed && !isShort && kind && <span className="block truncate text-ink-2">{kind}</span>}
      </span>
      <span className="sr-only">
        {calendar?.name} {event.busy ? "busy" : "free"} {kind}
      </span>
      {placed && <span aria-hidden data-end className="absolute inset-x-0 bottom-0 h-1.5 cursor-ns-resize" />}
    </div>
  );
});
