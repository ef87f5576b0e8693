import { useMemo } from "react";
import { DAY_MS, readWall } from "@/core/calendar";
import { useAfterPaint } from "../parts/use-after-paint";
import { addDay, isOn, rangeOf, type Day, type Shown } from "./shown";

/**
 * Days that are turned like pages. Those before and after the ones that are seen lie drawn under them, so that a key
 * that turns them draws nothing: what comes next is drawn in the frames after it.
 */

export interface Page {
  /** The page's place, which it keeps while it is there. */
  readonly slot: number;
  readonly days: readonly Day[];
  readonly shown: readonly Shown[];
  readonly isSeen: boolean;
}

/** One is seen, and one lies ready on either side. */
const PAGES = 3;
/** Pages are counted from here: a Monday. */
const FIRST: Day = "1970-01-05";

/** Which page it is that begins with a day. */
const numberOf = (days: readonly Day[]): number =>
  Math.floor((readWall(days[0]!) - readWall(FIRST)) / (days.length * DAY_MS));
const slotOf = (number: number): number => ((number % PAGES) + PAGES) % PAGES;

const drawn = new Map<string, readonly Shown[]>();
const MOST_DRAWN = 12;

/**
 * The list that was there before, where what is there now is the same: in another month's events the week that is
 * seen is found again, and nothing of it is drawn anew.
 */
function asDrawn(key: string, list: readonly Shown[]): readonly Shown[] {
  const before = drawn.get(key);
  if (before?.length === list.length && list.every((one, i) => one === before[i])) return before;
  if (drawn.size >= MOST_DRAWN) drawn.clear();
  drawn.set(key, list);
  return list;
}

/** What is on a page, the same as long as that is: a page is seen or not without being drawn anew. */
function usePage(number: number | null, length: number, held: readonly Shown[], zone: string) {
  return useMemo(() => {
    if (number === null) return null;
    const first = addDay(FIRST, number * length);
    const range = rangeOf(first, length, zone);
    return {
      days: Array.from({ length }, (_, i) => addDay(first, i)),
      shown: asDrawn(
        `${first} ${length} ${zone}`,
        held.filter((one) => isOn(one, range)),
      ),
    };
  }, [number, length, held, zone]);
}

/** @param seen the days that are to be seen @param held all that there is about them, and about those beside them */
export function usePages(seen: readonly Day[], held: readonly Shown[], zone: string): readonly Page[] {
  const { length } = seen;
  const number = numberOf(seen);
  const before = useAfterPaint<readonly Day[] | null>(seen, null);
  const numbers: (number | null)[] = Array.from({ length: PAGES }, () => null);
  if (before?.length === length)
    for (const by of [-1, 0, 1]) numbers[slotOf(numberOf(before) + by)] = numberOf(before) + by;
  // Whoever turns faster than pages are drawn sees the one that is meant in any case.
  numbers[slotOf(number)] = number;
  const pages = [
    usePage(numbers[0]!, length, held, zone),
    usePage(numbers[1]!, length, held, zone),
    usePage(numbers[2]!, length, held, zone),
  ];
  return pages.flatMap((page, slot) => (page ? [{ ...page, slot, isSeen: numbers[slot] === number }] : []));
}
