import type { PointerEvent } from "react";
import type { CalendarShape, TaskShape } from "@/core/api";
import type { Lane } from "@/core/calendar";
import type { Shown } from "./shown";
import { beginsText, EDGE, FILL, kindText, timeText, titleOf } from "./words";

interface Props {
  readonly shown: Shown;
  readonly tasks: ReadonlyMap<number, TaskShape>;
  readonly calendar: CalendarShape | undefined;
  readonly zone: string;
  readonly focused: boolean;
  readonly over: boolean;
  readonly onFocus: () => void;
  /** Above the hours it is a line; among them it stands where it is. */
  readonly place?: { readonly from: number; readonly to: number; readonly lane: Lane };
  readonly onHold?: (event: PointerEvent, kind: "move" | "end") => void;
}

const PERCENT_A_MINUTE = 100 / (24 * 60);

/** One time of an event. */
export function EventBox({ shown, tasks, calendar, zone, focused, over, onFocus, place, onHold }: Props) {
  const { event } = shown;
  const colour = calendar?.colour ?? "spruce";
  const kind = kindText(event);
  const title = titleOf(event, tasks);
  const done = event.task !== null && tasks.get(event.task)?.done;
  const style = place && {
    top: `${place.from * PERCENT_A_MINUTE}%`,
    height: `${Math.max(15, place.to - place.from) * PERCENT_A_MINUTE}%`,
    left: `calc(${(place.lane.lane / place.lane.lanes) * 100}% + 1px)`,
    width: `calc(${100 / place.lane.lanes}% - 3px)`,
  };
  const isShort = place !== undefined && place.to - place.from < 45;
  return (
    <div
      data-event={shown.key}
      aria-current={focused || undefined}
      title={`${title}, ${timeText(shown, zone)}${event.place && `, ${event.place}`}`}
      style={style}
      onPointerDown={(pressed) => onHold?.(pressed, "move")}
      onClick={(pressed) => {
        pressed.stopPropagation();
        onFocus();
      }}
      className={`overflow-hidden text-left text-xs leading-[1.3] ${place ? "border-t-[3px]" : "border-b-2"} ${EDGE[colour]} ${event.busy ? FILL[colour] : "bg-sheet"} ${event.block !== null ? "border-dashed" : ""} ${place ? "absolute cursor-grab px-1.5" : "px-1.5 py-px"} ${focused ? "z-20 shadow-[inset_0_0_0_2px_var(--ink)]" : place ? "shadow-[inset_0_0_0_1px_var(--rule)]" : ""} ${over ? "opacity-60" : ""}`}
    >
      <span
        className={`${isShort || !place ? "block truncate" : "block [overflow-wrap:anywhere]"} font-semibold ${done ? "line-through" : ""}`}
      >
        {event.state === "tentative" && "? "}
        {title}
        {isShort && <span className="num font-normal text-ink-2"> {beginsText(shown, zone)}</span>}
      </span>
      {place && !isShort && (
        <span className="num block truncate text-ink-2">
          {beginsText(shown, zone)}
          {event.place && ` ${event.place}`}
        </span>
      )}
      {place && !isShort && kind && <span className="block truncate text-ink-2">{kind}</span>}
      <span className="sr-only">
        {calendar?.name} {event.busy ? "busy" : "free"} {kind}
      </span>
      {onHold && (
        <span
          aria-hidden
          onPointerDown={(pressed) => {
            pressed.stopPropagation();
            onHold(pressed, "end");
          }}
          className="absolute inset-x-0 bottom-0 h-1.5 cursor-ns-resize"
        />
      )}
    </div>
  );
}
