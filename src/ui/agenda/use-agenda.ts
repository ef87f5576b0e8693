import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import type { CalendarShape, EventShape, TaskShape } from "@/core/api";
import { whenIdle } from "../state/idle";
import { calendars as calendarsRead, eventsOf, reads, tasks as tasksRead } from "../state/reads";
import { lasting } from "./acts";
import { monthDays } from "./month";
import { addDay, dayAt, isOn, monthOf, rangeOf, shownIn, weekStart, type Day, type Shown } from "./shown";
import type { ViewName } from "./words";

/** What the agenda shows: from which day, what of calendars is there, and what has the focus. */

const NO_EVENTS: readonly EventShape[] = [];
const NO_TASKS: readonly TaskShape[] = [];
const NO_CALENDARS: readonly CalendarShape[] = [];

export function daysOf(view: ViewName, anchor: Day): readonly Day[] {
  if (view === "day") return [anchor];
  if (view === "month") return monthDays(anchor);
  const first = weekStart(anchor);
  return Array.from({ length: 7 }, (_, i) => addDay(first, i));
}

/** So many days, weeks or months on. */
export function turned(view: ViewName, anchor: Day, by: number): Day {
  if (view !== "month") return addDay(anchor, view === "day" ? by : 7 * by);
  const [year = 0, month = 0] = anchor.split("-").map(Number);
  const at = new Date(Date.UTC(year, month - 1 + by, 1));
  return at.toISOString().slice(0, 10);
}

const HIDDEN = "calendars not shown";
const hiddenText = (): string => localStorage.getItem(HIDDEN) ?? "";

/** Calendars that are not shown in this browser. */
export function useHidden(): readonly [ReadonlySet<number>, (id: number, hide: boolean) => void] {
  const text = useSyncExternalStore(
    (changed) => {
      window.addEventListener(HIDDEN, changed);
      return () => window.removeEventListener(HIDDEN, changed);
    },
    hiddenText,
    () => "",
  );
  const hidden = useMemo(() => new Set(text.split(" ").filter(Boolean).map(Number)), [text]);
  const hide = useCallback(
    (id: number, isHidden: boolean) => {
      const next = new Set(hidden);
      if (isHidden) next.add(id);
      else next.delete(id);
      localStorage.setItem(HIDDEN, [...next].join(" "));
      window.dispatchEvent(new Event(HIDDEN));
    },
    [hidden],
  );
  return [hidden, hide];
}

/** The same one before and after it was stored. */
export const keyOf = ({ event, at }: Shown): string => `${lasting(event.id)} ${at}`;

/** Weeks and months reach over the month they are in by less. */
const MARGIN_DAYS = 13;
const HELD_DAYS = 31 + 2 * MARGIN_DAYS;
/** What of the time about a month is worked out. */
const heldIn = (month: string, zone: string) => rangeOf(addDay(`${month}-01`, -MARGIN_DAYS), HELD_DAYS, zone);

export function useAgenda(view: ViewName, zone: string, now: number) {
  const [chosenDay, setDay] = useState<Day | null>(null);
  const [focus, setFocus] = useState<string | null>(null);
  const anchor = chosenDay ?? dayAt(zone, now);
  const month = monthOf(anchor);
  const {
    data = NO_EVENTS,
    error,
    isLoading,
    refetch,
  } = useQuery({
    ...eventsOf(month),
    placeholderData: (before) => before,
  });
  const { data: tasks = NO_TASKS } = useQuery(tasksRead);
  const { data: calendars = NO_CALENDARS } = useQuery(calendarsRead);
  useEffect(() => {
    // What a key leads to next is there before it is pressed, and worked out.
    for (const by of [-1, 1]) {
      const other = eventsOf(monthOf(turned("month", `${month}-01`, by)));
      void reads
        .prefetchQuery({ ...other, staleTime: 60_000 })
        .then(() =>
          whenIdle(() =>
            shownIn(reads.getQueryData(other.queryKey) ?? NO_EVENTS, heldIn(other.queryKey[1]!, zone), zone),
          ),
        );
    }
  }, [month, zone]);
  const [hidden, hide] = useHidden();
  const days = useMemo(() => daysOf(view, anchor), [view, anchor]);
  // All of the month that is held, worked out once: turning a week is only looking at another part of it.
  const range = useMemo(() => heldIn(month, zone), [month, zone]);
  const held = useMemo(() => {
    const seen = data.filter(({ calendar }) => !hidden.has(calendar));
    return shownIn(seen, range, zone);
  }, [data, hidden, range, zone]);
  const shown = useMemo(() => {
    const range = rangeOf(days[0]!, days.length, zone);
    return held.filter((one) => isOn(one, range));
  }, [held, days, zone]);
  const found = shown.findIndex((one) => keyOf(one) === focus);
  const place = found >= 0 ? found : shown.findIndex(({ end }) => end > now);
  const focused: Shown | null = shown[Math.max(0, place)] ?? null;
  const byId = useMemo(() => new Map(tasks.map((task) => [task.id, task])), [tasks]);
  const calendarById = useMemo(() => new Map(calendars.map((one) => [one.id, one])), [calendars]);
  const choose = useCallback((one: Shown | undefined) => one && setFocus(keyOf(one)), []);
  const chooseNew = useCallback((id: number, at: string) => setFocus(`${id} ${at}`), []);
  return {
    anchor,
    setDay,
    days,
    held,
    range,
    shown,
    focused,
    choose,
    chooseNew,
    go: (by: number) => {
      const next = shown[Math.max(0, Math.min(shown.length - 1, Math.max(0, place) + (found >= 0 ? by : 0)))];
      if (next) setFocus(keyOf(next));
    },
    isChosen: found >= 0,
    events: data,
    error,
    isLoading,
    refetch,
    tasks,
    byId,
    calendars,
    calendarById,
    hidden,
    hide,
  };
}
