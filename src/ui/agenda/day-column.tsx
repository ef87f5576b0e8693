import { memo } from "react";
import type { CalendarShape, TaskShape } from "@/core/api";
import { hoursIn, lanesOf } from "@/core/calendar";
import type { Week } from "@/core/when";
import { EventBox, focusOn, keyUnder, WHOLE_LINES } from "./event-box";
import { SNAP_MINUTES, type Pull, type Spot, type useGridPull } from "./grid-drag";
import { isOn, isWhole, onDay, rangeOf, type Day, type Shown } from "./shown";
import { fullDayText } from "./words";

/** Time that a proposal gives to a task; milliseconds since 1970. */
export interface Proposed {
  readonly start: number;
  readonly end: number;
  readonly title: string;
}

/** What every day of a week is drawn by. */
export interface Shared {
  readonly shown: readonly Shown[];
  readonly tasks: ReadonlyMap<number, TaskShape>;
  readonly calendars: ReadonlyMap<number, CalendarShape>;
  readonly workHours: Week;
  readonly zone: string;
  readonly now: number;
  /** Where work would go, before it does. */
  readonly proposed: readonly Proposed[];
  readonly onFocus: (key: string) => void;
}

interface Props extends Shared {
  readonly day: Day;
  /** What has the focus, where that is on this day. */
  readonly focused: Shown | null;
  /** Where what is being pulled would go, where that is on this day. */
  readonly pulled: Spot | null;
  readonly isToday: boolean;
  readonly onHold: ReturnType<typeof useGridPull>["hold"];
}

const PERCENT_A_MINUTE = 100 / (24 * 60);
const NEW: Pull = { kind: "new" };

const spotStyle = ({ from, to }: Pick<Spot, "from" | "to">) => ({
  top: `${from * PERCENT_A_MINUTE}%`,
  height: `${(to - from) * PERCENT_A_MINUTE}%`,
});
const clock = (minutes: number): string =>
  `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;

/** One day by the hour. A key that moves the focus draws only the day it leaves and the one it comes to. */
export const DayColumn = memo(function DayColumn(props: Props) {
  const { day, shown, tasks, calendars, workHours, zone, now, focused, proposed, pulled, isToday } = props;
  const range = rangeOf(day, 1, zone);
  const timed = shown.filter((one) => !isWhole(one) && isOn(one, range));
  const lanes = lanesOf(timed);
  const spotAt = (one: Pick<Shown, "start" | "end">): Spot => ({ day, ...onDay(one, day, zone) });
  return (
    <div
      data-day={day}
      role="group"
      aria-label={fullDayText(day)}
      className="relative border-l border-rule"
      style={{
        backgroundImage: "repeating-linear-gradient(to bottom, var(--rule-soft) 0 1px, transparent 1px 44px)",
      }}
      onClick={({ target }) => focusOn(target, props.onFocus)}
      onPointerDown={(event) => {
        const key = keyUnder(event.target);
        const one = timed.find((shown) => shown.key === key);
        if (one) {
          const kind = event.target instanceof HTMLElement && event.target.dataset.end !== undefined ? "end" : "move";
          props.onHold(event, { kind, shown: one }, spotAt(one));
        }
        if (event.target !== event.currentTarget) return;
        const { top, height } = event.currentTarget.getBoundingClientRect();
        const minute = ((event.clientY - top) / height) * 24 * 60;
        const from = Math.floor(minute / SNAP_MINUTES) * SNAP_MINUTES;
        props.onHold(event, NEW, { day, from, to: from + SNAP_MINUTES });
      }}
    >
      {hoursIn(workHours, range, zone).map((span) => (
        <span
          key={span.start}
          aria-hidden
          className="pointer-events-none absolute inset-x-0 bg-sheet/70"
          style={spotStyle(onDay(span, day, zone))}
        />
      ))}
      {timed.map((one, i) => (
        <EventBox
          key={i}
          shown={one}
          tasks={tasks}
          calendar={calendars.get(one.event.calendar)}
          zone={zone}
          focused={one === focused}
          over={one.end < now}
          {...onDay(one, day, zone)}
          {...lanes[i]!}
        />
      ))}
      {proposed
        .filter(({ start, end }) => start < range.to && end > range.from)
        .map((one) => (
          <span
            key={`${one.start} ${one.title}`}
            className="pointer-events-none absolute inset-x-1 z-10 overflow-hidden border-2 border-dashed border-ink bg-paper/80 px-1 text-xs leading-[1.15] font-semibold"
            style={spotStyle(onDay(one, day, zone))}
          >
            <span className={WHOLE_LINES}>{one.title}</span>
          </span>
        ))}
      {pulled && (
        <span
          className="num pointer-events-none absolute inset-x-0.5 z-30 border-2 border-ink bg-paper/80 px-1 text-xs font-bold"
          style={spotStyle(pulled)}
        >
          {clock(pulled.from)}–{clock(pulled.to)}
        </span>
      )}
      {isToday && (
        <span
          aria-hidden
          className="pointer-events-none absolute inset-x-0 z-10 h-0.5 bg-brick"
          style={{ top: `${onDay({ start: now, end: now }, day, zone).from * PERCENT_A_MINUTE}%` }}
        />
      )}
    </div>
  );
});
