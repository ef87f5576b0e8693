import type { CalendarShape, EventShape, TaskShape } from "@/core/api";
import { isDay, readWall, ruleText } from "@/core/calendar";
import { clockText } from "../parts/words";
import type { Day, Shown } from "./shown";

export const VIEWS = ["week", "day", "month"] as const;
export type ViewName = (typeof VIEWS)[number];

const text = (options: Intl.DateTimeFormatOptions) => {
  const format = new Intl.DateTimeFormat("en-GB", { ...options, timeZone: "UTC" });
  return (day: Day) => format.format(new Date(readWall(day)));
};
/** "Fri 27 Nov" */
export const dayText = text({ weekday: "short", day: "numeric", month: "short" });
/** "Friday, 27 November 2026" */
export const fullDayText = text({ weekday: "long", day: "numeric", month: "long", year: "numeric" });
/** "27 Nov 2026" */
export const dateOfDay = text({ day: "numeric", month: "short", year: "numeric" });
export const monthName = text({ month: "long", year: "numeric" });

export const againText = (rule: string): string => ruleText(rule, dateOfDay);

/** "10:00–11:30", "whole day" */
export function timeText({ event, start, end }: Pick<Shown, "event" | "start" | "end">, zone: string): string {
  if (isDay(event.start)) return "whole day";
  const from = clockText(new Date(start).toISOString(), zone);
  return start === end ? from : `${from}–${clockText(new Date(end).toISOString(), zone)}`;
}

export const beginsText = ({ start }: Pick<Shown, "start">, zone: string): string =>
  clockText(new Date(start).toISOString(), zone);

/** What it is beside its title: time for a task, or for mail. */
export const kindText = ({ task, block }: EventShape): string =>
  task !== null ? "time for a task" : block !== null ? "time for mail" : "";

export const titleOf = (event: EventShape, tasks: ReadonlyMap<number, TaskShape>): string =>
  (event.task !== null && tasks.get(event.task)?.title) || event.title;

/** Colours of calendars: never the only sign, their names stand beside them. Cards among the hours have it on top. */
export const EDGE: Record<CalendarShape["colour"], string> = {
  spruce: "border-spruce",
  slate: "border-slate",
  plum: "border-plum",
  amber: "border-amber",
  brick: "border-brick",
};
export const FILL: Record<CalendarShape["colour"], string> = {
  spruce: "bg-spruce-soft",
  slate: "bg-slate-soft",
  plum: "bg-plum-soft",
  amber: "bg-amber-soft",
  brick: "bg-brick-soft",
};
