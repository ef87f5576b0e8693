import { useDeferredValue, useEffect, useMemo, useRef, type RefObject } from "react";
import { DayColumn, type Shared } from "./day-column";
import { EventBox, focusOn } from "./event-box";
import type { useGridPull } from "./grid-drag";
import { dayAt, isOn, isWhole, onDay, rangeOf, type Day } from "./shown";
import { dayText, fullDayText } from "./words";

/** Pixels an hour is high. */
const HOUR_PX = 44;
const HOURS = Array.from({ length: 24 }, (_, hour) => hour);

export interface Due {
  readonly key: string;
  readonly at: number;
  readonly text: string;
}

interface Props extends Shared {
  readonly days: readonly Day[];
  readonly due: readonly Due[];
  readonly focused: string | null;
  readonly onDay: (day: Day) => void;
  readonly columns: RefObject<HTMLDivElement | null>;
  readonly pull: ReturnType<typeof useGridPull>;
}

/** With more than this in them, days that are turned are named first, and what is in them follows in the next frame. */
const MANY = 24;

type Drawn = Pick<Props, "days" | "shown" | "focused">;

/** What is drawn: what is meant, or just after turning what was there before. */
function useDrawn({ days, shown, focused }: Props): Drawn {
  const meant = useMemo(() => ({ days, shown, focused }), [days, shown, focused]);
  const before = useDeferredValue<Drawn>(meant);
  const isTurning = before.days !== days && before.days.length === days.length;
  return isTurning && shown.length > MANY ? before : meant;
}

/** What is left free over and under what is scrolled to. */
const EDGE_PX = 4;

/**
 * Keeps what has the focus among the hours that are seen. Where it stands is known by its time, and how far the hours
 * are scrolled by what the bar said: the browser is asked neither, since to answer it lays out the whole week.
 */
function useScrollTo(scroller: RefObject<HTMLDivElement | null>, { shown, focused }: Drawn, zone: string): void {
  const seen = useRef({ top: 0, height: Infinity });
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const scrolled = () => (seen.current.top = element.scrollTop);
    const observer = new ResizeObserver(([entry]) => (seen.current.height = entry!.contentRect.height));
    observer.observe(element);
    element.addEventListener("scroll", scrolled, { passive: true });
    return () => {
      observer.disconnect();
      element.removeEventListener("scroll", scrolled);
    };
  }, [scroller]);
  const chosen = shown.find((one) => one.key === focused);
  const key = chosen?.key;
  const isAbove = chosen !== undefined && isWhole(chosen);
  const { from, to } = chosen ? onDay(chosen, dayAt(zone, chosen.start), zone) : { from: 0, to: 0 };
  useEffect(() => {
    if (key === undefined) return;
    // Of whole days there are few, and more than are seen only seldom.
    if (isAbove) {
      document.querySelector(`[data-event="${CSS.escape(key)}"]`)?.scrollIntoView({ block: "nearest" });
      return;
    }
    const { top, height } = seen.current;
    const begin = Math.max(0, (from / 60) * HOUR_PX - EDGE_PX);
    const end = (to / 60) * HOUR_PX + EDGE_PX - height;
    if (begin < top) scroller.current?.scrollTo({ top: begin });
    // What is taller than what is seen is seen from where it begins.
    else if (end > top) scroller.current?.scrollTo({ top: Math.min(begin, end) });
  }, [scroller, key, isAbove, from, to]);
}

/** Days beside one another, by the hour. */
export function WeekGrid(props: Props) {
  const { days, due, workHours, zone, now, columns, tasks, calendars, proposed, pull, onFocus } = props;
  const drawn = useDrawn(props);
  const scroller = useRef<HTMLDivElement>(null);
  const today = dayAt(zone, now);
  // Once: what is read anew, or another week, is no reason to be somewhere else in the day.
  const begins = Math.min(...workHours.map((one) => one.from), 9 * 60) - 60;
  useEffect(() => {
    scroller.current?.scrollTo({ top: (begins / 60) * HOUR_PX - 8 });
  }, [begins]);
  useScrollTo(scroller, drawn, zone);
  const grid = { gridTemplateColumns: `48px repeat(${days.length}, minmax(0, 1fr))` };
  const focused = drawn.shown.find((one) => one.key === drawn.focused) ?? null;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="grid border-b border-rule bg-well pr-[var(--bar,0px)] text-[13px]" style={grid}>
        <span />
        {days.map((day, i) => {
          const range = rangeOf(drawn.days[i]!, 1, zone);
          const whole = drawn.shown.filter((one) => isWhole(one) && isOn(one, range));
          const dueHere = due.filter(({ at }) => at >= range.from && at < range.to);
          return (
            <div key={i} className="min-w-0 border-l border-rule px-1 pt-1 pb-1.5">
              <button
                type="button"
                title={fullDayText(day)}
                onClick={() => props.onDay(day)}
                className={`block w-full truncate rounded-sm px-1 text-left max-sm:px-0 max-sm:text-[11px] max-sm:whitespace-normal ${day === today ? "bg-ink font-bold text-paper" : "font-semibold"}`}
              >
                {dayText(day).split(" ").slice(0, 2).join(" ")}
                <span className="max-sm:hidden"> {dayText(day).split(" ")[2]}</span>
              </button>
              <div
                className="mt-1 grid max-h-24 gap-px overflow-y-auto"
                onClick={({ target }) => focusOn(target, onFocus)}
              >
                {whole.map((one) => (
                  <EventBox
                    key={one.key}
                    shown={one}
                    tasks={tasks}
                    calendar={calendars.get(one.event.calendar)}
                    zone={zone}
                    focused={one === focused}
                    over={one.end < now}
                  />
                ))}
                {dueHere.map(({ key, text }) => (
                  <span key={key} title={text} className="block truncate px-1 text-xs text-ink-2">
                    <span aria-hidden>▸ </span>
                    {text}
                  </span>
                ))}
              </div>
            </div>
          );
        })}
      </div>
      <div ref={scroller} className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Hours">
        <div className="grid" style={{ ...grid, height: 24 * HOUR_PX }}>
          <div className="relative text-right text-[11px] text-ink-2">
            {HOURS.slice(1).map((hour) => (
              <span key={hour} className="num absolute right-1.5 -translate-y-1/2" style={{ top: hour * HOUR_PX }}>
                {hour}:00
              </span>
            ))}
          </div>
          <div ref={columns} className="col-start-2 -col-end-1 grid grid-cols-subgrid select-none">
            {drawn.days.map((day, i) => (
              // Another week is drawn in the places of this one: making new ones and dropping these takes longer.
              <DayColumn
                key={i}
                day={day}
                shown={drawn.shown}
                tasks={tasks}
                calendars={calendars}
                workHours={workHours}
                zone={zone}
                now={now}
                focused={focused !== null && isOn(focused, rangeOf(day, 1, zone)) ? focused : null}
                proposed={proposed}
                pulled={pull.now?.spot?.day === day ? pull.now.spot : null}
                isToday={day === today}
                onFocus={onFocus}
                onHold={pull.hold}
              />
            ))}
          </div>
        </div>
      </div>
    </div>
  );
}
