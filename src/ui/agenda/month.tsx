import type { CalendarShape, TaskShape } from "@/core/api";
import { EventBox, focusOn } from "./event-box";
import { addDay, dayAt, isOn, isWhole, monthOf, rangeOf, weekStart, type Day, type Shown } from "./shown";
import type { Due } from "./week";
import { fullDayText } from "./words";
import { clockText } from "../parts/words";

interface Props {
  readonly anchor: Day;
  readonly shown: readonly Shown[];
  readonly due: readonly Due[];
  readonly tasks: ReadonlyMap<number, TaskShape>;
  readonly calendars: ReadonlyMap<number, CalendarShape>;
  readonly zone: string;
  readonly now: number;
  readonly focused: string | null;
  readonly onFocus: (key: string) => void;
  readonly onDay: (day: Day) => void;
}

const WEEKS = 6;
/** More of a day is counted only. */
const MOST_LINES = 4;
const NAMES = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** From which day a month is shown, and for how many. */
export const monthDays = (anchor: Day): readonly Day[] => {
  const first = weekStart(`${monthOf(anchor)}-01`);
  return Array.from({ length: WEEKS * 7 }, (_, i) => addDay(first, i));
};

/** A month, by the week. */
export function MonthGrid({ anchor, shown, due, zone, now, focused, ...rest }: Props) {
  const today = dayAt(zone, now);
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="grid grid-cols-7 border-b border-rule bg-well text-[13px] font-semibold">
        {NAMES.map((name) => (
          <span key={name} className="border-l border-rule px-2 py-1 first:border-l-0">
            {name}
          </span>
        ))}
      </div>
      <div className="grid min-h-0 flex-1 auto-rows-fr grid-cols-7 overflow-y-auto">
        {monthDays(anchor).map((day) => {
          const range = rangeOf(day, 1, zone);
          const here = shown.filter((one) => isOn(one, range));
          // What has the focus is seen, however much there is.
          const at = here.findIndex(({ key }) => key === focused);
          const from = Math.max(0, Math.min(at - 1, here.length - MOST_LINES));
          const lines = here.slice(from, from + MOST_LINES);
          const dueHere = due.filter((one) => one.at >= range.from && one.at < range.to).length;
          const isOther = monthOf(day) !== monthOf(anchor);
          return (
            <div
              key={day}
              role="group"
              aria-label={fullDayText(day)}
              className={`flex min-h-20 min-w-0 flex-col border-b border-l border-rule px-1 pb-1 [&:nth-child(7n+1)]:border-l-0 ${isOther ? "bg-well" : ""}`}
            >
              <button
                type="button"
                onClick={() => rest.onDay(day)}
                className={`num mt-0.5 mb-px self-start rounded-sm px-1 text-xs ${day === today ? "bg-ink font-bold text-paper" : isOther ? "text-ink-2" : "font-semibold"}`}
              >
                {Number(day.slice(8))}
              </button>
              <div className="grid gap-px" onClick={({ target }) => focusOn(target, rest.onFocus)}>
                {lines.map((one) => (
                  <div key={one.key} className="flex min-w-0 items-baseline">
                    {!isWhole(one) && (
                      <span className="num w-9 flex-none text-[11px] text-ink-2 max-sm:hidden">
                        {clockText(new Date(one.start).toISOString(), zone)}
                      </span>
                    )}
                    <span className="min-w-0 flex-1">
                      <EventBox
                        shown={one}
                        tasks={rest.tasks}
                        calendar={rest.calendars.get(one.event.calendar)}
                        zone={zone}
                        focused={one.key === focused}
                        over={one.end < now}
                      />
                    </span>
                  </div>
                ))}
              </div>
              <span className="text-[11px] text-ink-2">
                {[here.length > lines.length && `${here.length - lines.length} more`, dueHere > 0 && `${dueHere} due`]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}
