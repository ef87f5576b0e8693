import { GROUPINGS, ORDERS, type Grouping, type ListOrder } from "@/core/list";
import { mailbox, view } from "./store";

/**
 * How each place is arranged and where in it the person was, and which place is open: kept in the browser, by
 * person, so that a place is found again as it was left, over a reload too.
 */

interface Arranged {
  readonly order?: ListOrder;
  readonly group?: Grouping;
  /** Keys of folded groups. */
  readonly folded?: readonly string[];
  /** The message the focus was on, or the key of the group whose head it was on. */
  readonly at?: number | null;
  readonly head?: string | null;
  /** The order of passes begun there. */
  readonly pass?: ListOrder;
}

/** Where a window was. */
export interface Here {
  readonly place: string;
  readonly conditions: readonly string[];
  readonly batch: number | null;
  /** The pass that was under way. */
  readonly pass?: string | null;
}

interface Kept {
  readonly here?: Here;
  readonly places: Readonly<Record<string, Arranged>>;
}

/** Places remembered; those not seen for longest are forgotten. */
const MOST_PLACES = 80;
const MOST_FOLDED = 500;

const keyOf = (): string => `tachyne-places-${view().home?.person.token ?? ""}`;
const nameOf = (place: string, batch: number | null): string => (batch === null ? place : `batch ${batch}`);

function readAll(): Kept {
  try {
    const kept = JSON.parse(localStorage.getItem(keyOf()) ?? "{}") as Partial<Kept>;
    return { places: {}, ...kept };
  } catch {
    // A browser that keeps nothing, or something else: places are as they are usually.
    return { places: {} };
  }
}

function writeAll(kept: Kept): void {
  try {
    localStorage.setItem(keyOf(), JSON.stringify(kept));
  } catch {
    // It is a convenience: nothing is said when there is no room for it.
  }
}

/** Notes something about the place that is shown. */
export function arrange(change: Arranged): void {
  const { place, batch } = view();
  const { here, places } = readAll();
  const name = nameOf(place, batch);
  const { [name]: now, ...others } = places;
  const folded = change.folded ?? now?.folded;
  const next = { ...now, ...change, ...(folded ? { folded: folded.slice(0, MOST_FOLDED) } : {}) };
  const entries = [...Object.entries(others), [name, next] as const].slice(-MOST_PLACES);
  writeAll({ ...(here ? { here } : {}), places: Object.fromEntries(entries) });
}

/** Notes which place is shown, and where the focus is in it. */
export function keepPlace(): void {
  const { phase, place, conditions, batch, focusId, focusGroup, pass } = view();
  if (phase !== "ready" || mailbox.columns.count === 0) return;
  arrange({ at: focusId, head: focusGroup });
  writeAll({ ...readAll(), here: { place, conditions, batch, pass: pass?.id ?? null } });
}

/** How a place was left. */
export function arrangedAt(
  place: string,
  batch: number | null,
): {
  order: ListOrder | undefined;
  group: Grouping | undefined;
  folded: readonly string[];
  at: number | null;
  head: string | null;
  pass: ListOrder | undefined;
} {
  const known = readAll().places[nameOf(place, batch)] ?? {};
  return {
    order: ORDERS.find((order) => order === known.order),
    group: GROUPINGS.find((group) => group === known.group),
    folded: Array.isArray(known.folded) ? known.folded : [],
    at: typeof known.at === "number" ? known.at : null,
    head: typeof known.head === "string" ? known.head : null,
    pass: ORDERS.find((order) => order === known.pass),
  };
}

/** Where the last window of this person was. */
export const lastHere = (): Here | null => readAll().here ?? null;
