import type { PaceBy } from "@/core/api";
import { dayText, type Day } from "@/core/pace";

/** How much of the past is looked at, each by a digit; years by the week, since nobody tells 365 bars apart. */
export interface Period {
  readonly name: string;
  readonly days: number;
  readonly by: PaceBy;
}

export const PERIODS = [
  { name: "1 day", days: 1, by: "hour" },
  { name: "1 week", days: 7, by: "day" },
  { name: "4 weeks", days: 28, by: "day" },
  { name: "13 weeks", days: 91, by: "day" },
  { name: "1 year", days: 364, by: "week" },
  { name: "3 years", days: 1092, by: "week" },
] as const satisfies readonly Period[];
export type PeriodName = (typeof PERIODS)[number]["name"];
/** Four weeks stand first: what is kept nowhere begins with them. */
export const PERIOD_NAMES = ["4 weeks", "1 day", "1 week", "13 weeks", "1 year", "3 years"] as const;

export interface Span {
  readonly from: Day;
  readonly to: Day;
}

/** The period that ends today, or so many of its lengths before. */
export const spanOf = ({ days }: Period, today: Day, back: number): Span => ({
  from: today - days * (back + 1) + 1,
  to: today - days * back,
});

/** The mail of some days, as a narrowing. */
export const datesOf = ({ from, to }: Span): string =>
  from === to ? `date=${dayText(from)}` : `date=${dayText(from)}..${dayText(to)}`;
