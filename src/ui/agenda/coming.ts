import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { EventShape } from "@/core/api";
import { eventsOf } from "../state/reads";
import { addDay, dayAt, monthOf, rangeOf, shownIn, type Shown } from "./shown";

const NONE: readonly EventShape[] = [];
/** Reminders are said up to four weeks ahead; what is next is looked for as far. */
const AHEAD_DAYS = 29;

/** What takes place today and in the next weeks, as far as it is not over. */
export function useComing(zone: string, now: number): readonly Shown[] {
  const today = dayAt(zone, now);
  const later = addDay(today, AHEAD_DAYS);
  const { data: here = NONE } = useQuery({ ...eventsOf(monthOf(today)), staleTime: Infinity });
  const { data: then = NONE } = useQuery({ ...eventsOf(monthOf(later)), staleTime: Infinity });
  return useMemo(() => {
    const all = [...new Map([...here, ...then].map((event) => [event.id, event])).values()];
    return shownIn(all, rangeOf(today, AHEAD_DAYS, zone), zone);
  }, [here, then, today, zone]);
}
