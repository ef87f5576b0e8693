import { Tally, type Count, type Tallied } from "@/core/list";
import { checkNarrow } from "./browse";
import { maskOf } from "./listed";
import { askForTasks } from "./open-tasks";
import { mailbox, set, useView, view } from "./store";
import { askForWords } from "./words";

/** Counting: everything shown with a count is counted anew a moment after a change, a piece between two frames. */

/** Changes come in bursts, and keys go first: counting waits until nothing has happened for so long, … */
const SETTLE_MS = 100;
/** … but not for longer than this. */
const MOST_WAIT_MS = 800;
/** How long a piece of counting may take; a frame has sixteen. */
const PIECE_MS = 5;
const ROWS_AT_ONCE = 4000;

let counted = { version: -1, batches: null as unknown, minute: -1 };
let timer: ReturnType<typeof setTimeout> | undefined;
let counting = false;
/** When the first of the changes came that have not been counted; null when all have. */
let since: number | null = null;

/** Places that are counted while they are shown: like batches, under ids below nothing. */
let shownPlaces: readonly string[] = [];
const placeKey = (place: string): number => -1 - shownPlaces.indexOf(place);

/** Counts what lies in some places from now on; until another list of them is given. */
export function countPlaces(places: readonly string[]): void {
  if (places.join("\n") === shownPlaces.join("\n")) return;
  shownPlaces = places;
  recount();
}

/** For each label, those it is nested in, as paths say. */
function labelsAbove(): Map<number, number[]> {
  const { labels } = view().directory;
  return new Map(
    labels.map(({ id, name }) => [
      id,
      labels.filter((one) => name.toLowerCase().startsWith(`${one.name.toLowerCase()}/`)).map((one) => one.id),
    ]),
  );
}

function begin(): Tally {
  const batches = new Map<number, Uint8Array>();
  for (const { id, narrow } of view().home?.batches ?? []) {
    const checked = checkNarrow(narrow);
    if (!checked.ok) continue;
    batches.set(id, maskOf(checked.test));
    askForWords(checked.test, recount, () => undefined);
    askForTasks(checked.test, recount);
  }
  for (const place of shownPlaces) {
    const checked = checkNarrow(place);
    if (checked.ok) batches.set(placeKey(place), maskOf(checked.test));
  }
  const { folders, accounts = [] } = view().directory;
  const inbox = folders.find((folder) => folder.role === "inbox")?.id ?? 0;
  const known = new Set(accounts.map(({ id }) => id));
  return new Tally(mailbox.columns, batches, Date.now(), inbox, labelsAbove(), known);
}

function goOn(tally: Tally, generation: number): void {
  // Rows are numbered anew: what was counted so far means nothing any more.
  if (generation !== mailbox.generation) return count();
  const end = performance.now() + PIECE_MS;
  let done: Tallied | null = null;
  while (!done && performance.now() < end) done = tally.walk(ROWS_AT_ONCE);
  if (!done) {
    setTimeout(() => goOn(tally, generation), 0);
    return;
  }
  counting = false;
  set({ tally: done });
}

function count(): void {
  since = null;
  counting = true;
  counted = now();
  goOn(begin(), mailbox.generation);
}

function schedule(): void {
  since ??= performance.now();
  clearTimeout(timer);
  timer = setTimeout(count, Math.max(0, Math.min(SETTLE_MS, since + MOST_WAIT_MS - performance.now())));
}

const now = () => ({
  version: view().version,
  batches: view().home?.batches as unknown,
  minute: Math.floor(Date.now() / 60_000),
});

function look(): void {
  // Of a part of the index nothing can be counted that would be true.
  if (view().loading !== null) return;
  const current = now();
  const same =
    current.version === counted.version && current.batches === counted.batches && current.minute === counted.minute;
  if (!same && !counting) schedule();
}

/** Counts once more, although nothing here changed: something else did that batches ask for. */
function recount(): void {
  counted = { ...counted, version: -1 };
  look();
}

/** Keeps the counts right from now on. */
export function keepCounting(): void {
  useView.subscribe(look);
  setInterval(look, 60_000);
  look();
}

/** A count as it is shown: how many are old comes only with the whole index. */
export interface Shown {
  readonly total: number;
  readonly unread: number;
  readonly old: number | null;
  /** The date of the oldest, in milliseconds since 1970; NaN where there is none, or where that is not known yet. */
  readonly oldestMs: number;
}

/** Counts by the id of what has them; null where nothing is known yet. */
export interface Counts {
  readonly folder: (id: number) => Shown | null;
  /** Of what lies in the inbox; 0 for what came through no account. */
  readonly account: (id: number) => Shown | null;
  readonly label: (id: number) => Shown | null;
  readonly marker: (id: number) => Shown | null;
  readonly batch: (id: number) => Shown | null;
  /** Of those that countPlaces was told. */
  readonly place: (place: string) => Shown | null;
  readonly marked: Shown | null;
  readonly awaited: Shown | null;
  readonly owed: Shown | null;
}

const NONE: Shown = { total: 0, unread: 0, old: 0, oldestMs: NaN };

/** Everything that is shown with a count. Until the index can be counted, folders have what the server knows. */
export function useCounts(): Counts {
  const tally = useView((v) => v.tally);
  const folders = useView((v) => v.home?.folders);
  const by = (counts: ReadonlyMap<number, Count> | undefined) => (id: number) =>
    counts ? (counts.get(id) ?? NONE) : null;
  const known = (id: number): Shown | null => {
    const folder = folders?.find((one) => one.id === id);
    return folder ? { total: folder.total, unread: folder.unread, old: null, oldestMs: NaN } : null;
  };
  return {
    folder: tally ? by(tally.folders) : known,
    account: by(tally?.accounts),
    label: by(tally?.labels),
    marker: by(tally?.markers),
    batch: by(tally?.batches),
    place: (place) => by(tally?.batches)(placeKey(place)),
    marked: tally?.marked ?? null,
    awaited: tally?.awaited ?? null,
    owed: tally?.owed ?? null,
  };
}
