import { memo, useEffect, useRef, type RefObject } from "react";
import { DayColumn, type Shared } from "./day-column";
import { EventBox, focusOn } from "./event-box";
import type { useGridPull } from "./grid-drag";
import { usePages } from "./pages";
import { dayAt, isOn, isWhole, onDay, rangeOf, type Day, type Shown } from "./shown";
import { dayText, fullDayText } from "./words";

/** Pixels an hour is high. */
const HOUR_PX = 44;
/** What lies ready under what is seen, and takes no place. */
const UNDER = "invisible absolute inset-x-0 top-0";
const HOURS = Array.from({ length: 24 }, (_, hour) => hour);

export interface Due {
  readonly key: string;
  readonly at: number;
  readonly text: string;
}

interface Props extends Omit<Shared, "shown"> {
  readonly days: readonly Day[];
  /** What there is on these days and on those beside them. */
  readonly held: readonly Shown[];
  readonly due: readonly Due[];
  readonly focused: string | null;
  readonly onDay: (day: Day) => void;
  readonly columns: RefObject<HTMLDivElement | null>;
  readonly pull: ReturnType<typeof useGridPull>;
}

/** What is left free over and under what is scrolled to. */
const EDGE_PX = 4;

/**
 * Keeps what has the focus among the hours that are seen. Where it stands is known by its time, and how far the hours
 * are scrolled by what the bar said: the browser is asked neither, since to answer it lays out the whole week.
 */
function useScrollTo(scroller: RefObject<HTMLDivElement | null>, chosen: Shown | null, zone: string): void {
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
  const key = chosen?.key;
  const isAbove = chosen !== null && isWhole(chosen);
  const { from, to } = chosen ? onDay(chosen, dayAt(zone, chosen.start), zone) : { from: 0, to: 0 };
  useEffect(() => {
    if (key === undefined) return;
    // Of whole days there are few, and more than are seen only seldom.
    if (isAbove) {
      document.querySelector(`[data-seen] [data-event="${CSS.escape(key)}"]`)?.scrollIntoView({ block: "nearest" });
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

interface HeadsProps extends Pick<Shared, "shown" | "tasks" | "calendars" | "zone" | "now" | "onFocus"> {
  readonly days: readonly Day[];
  readonly due: readonly Due[];
  readonly focused: Shown | null;
  readonly today: Day;
  readonly onDay: (day: Day) => void;
}

/** What stands above the hours: the days' names, what lasts all day, and what is due. */
const Heads = memo(function Heads({ days, due, focused, today, onDay, ...shared }: HeadsProps) {
  const { shown, zone, now, tasks, calendars, onFocus } = shared;
  return days.map((day, i) => {
    const range = rangeOf(day, 1, zone);
    const whole = shown.filter((one) => isWhole(one) && isOn(one, range));
    const dueHere = due.filter(({ at }) => at >= range.from && at < range.to);
    return (
      <div key={i} className="min-w-0 border-l border-rule px-1 pt-1 pb-1.5">
        <button
          type="button"
          title={fullDayText(day)}
          onClick={() => onDay(day)}
          className={`block w-full truncate rounded-sm px-1 text-left max-sm:px-0 max-sm:text-[11px] max-sm:whitespace-normal ${day === today ? "bg-ink font-bold text-paper" : "font-semibold"}`}
        >
          {dayText(day).split(" ").slice(0, 2).join(" ")}
          <span className="max-sm:hidden"> {dayText(day).split(" ")[2]}</span>
        </button>
        <div className="mt-1 grid max-h-24 gap-px overflow-y-auto" onClick={({ target }) => focusOn(target, onFocus)}>
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
  });
});

/** Days beside one another, by the hour. */
export function WeekGrid(props: Props) {
  const { days, held, due, workHours, zone, now, columns, tasks, calendars, proposed, pull, onFocus, onDay } = props;
  const pages = usePages(days, held, zone);
  const seen = pages.find(({ isSeen }) => isSeen)!;
  const scroller = useRef<HTMLDivElement>(null);
  const today = dayAt(zone, now);
  // Once: what is read anew, or another week, is no reason to be somewhere else in the day.
  const begins = Math.min(...workHours.map((one) => one.from), 9 * 60) - 60;
  useEffect(() => {
    scroller.current?.scrollTo({ top: (begins / 60) * HOUR_PX - 8 });
  }, [begins]);
  const focused = seen.shown.find((one) => one.key === props.focused) ?? null;
  useScrollTo(scroller, focused, zone);
  const grid = { gridTemplateColumns: `48px repeat(${days.length}, minmax(0, 1fr))` };
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="relative border-b border-rule bg-well text-[13px]">
        {pages.map((page) => (
          <div
            key={page.slot}
            data-seen={page.isSeen || undefined}
            aria-hidden={!page.isSeen || undefined}
            className={`grid pr-[var(--bar,0px)] ${page.isSeen ? "" : UNDER}`}
            style={grid}
          >
            <span />
            <Heads
              days={page.days}
              shown={page.shown}
              due={due}
              focused={page.isSeen ? focused : null}
              today={today}
              tasks={tasks}
              calendars={calendars}
              zone={zone}
              now={now}
              onFocus={onFocus}
              onDay={onDay}
            />
          </div>
        ))}
      </div>
      <div ref={scroller} className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Hours">
        <div className="relative grid overflow-x-clip" style={{ ...grid, height: 24 * HOUR_PX }}>
          <div className="relative text-right text-[11px] text-ink-2">
            {HOURS.slice(1).map((hour) => (
              <span key={hour} className="num absolute right-1.5 -translate-y-1/2" style={{ top: hour * HOUR_PX }}>
                {hour}:00
              </span>
            ))}
          </div>
          {pages.map((page) => (
            <div
              key={page.slot}
              ref={page.isSeen ? columns : undefined}
              data-seen={page.isSeen || undefined}
              // All in one place and laid out, and what is not seen pushed out of it: nothing in it is told of that,
              // as it would be where it is made invisible, and to see it is only to paint it.
              aria-hidden={!page.isSeen || undefined}
              className={`col-start-2 -col-end-1 row-start-1 grid grid-cols-subgrid bg-paper select-none ${page.isSeen ? "" : "-translate-x-[200%]"}`}
            >
              {page.days.map((day, i) => (
                // Other days are drawn in the places of these: making new ones and dropping these takes longer.
                <DayColumn
                  key={i}
                  day={day}
                  shown={page.shown}
                  tasks={tasks}
                  calendars={calendars}
                  workHours={workHours}
                  zone={zone}
                  now={now}
                  focused={page.isSeen && focused && isOn(focused, rangeOf(day, 1, zone)) ? focused : null}
                  proposed={proposed}
                  pulled={page.isSeen && pull.now?.spot?.day === day ? pull.now.spot : null}
                  isToday={day === today}
                  onFocus={onFocus}
                  onHold={pull.hold}
                />
              ))}
            </div>
          ))}
        </div>
      </div>
    </div>
  );
}
