import { isDeckNumber } from "@/core/keys";
import type { Deck } from "@/core/keys";
import type { EntryShape, Home } from "@/core/api";
import { folderId, labelId, markerId } from "@/core/id";
import { folderFor } from "@/core/place";
import { eventsAddress, get, getIndex, Refused } from "./api";
import { goToPlace, relist } from "./browse";
import { arrive, fetchMessages, mergePart, resume, setConfirmed } from "./decide";
import { placeOf } from "./places";
import { mailbox, set, view } from "./store";

/** Filling the view when a window opens, and keeping it up to date after. */

/** The first part of the index: as much of the inbox as a person sees at once, and some way down. */
const FIRST_PART = "500";
/** The parts after it, of the whole mailbox. */
const PART = "50000";

function takeHome(read: Home): void {
  const { home: now } = view();
  // Events may have told of later writes than the answer knows.
  const home = now && now.seq > read.seq ? { ...read, seq: now.seq, tasks: now.tasks } : read;
  set({
    home,
    directory: {
      folders: home.folders.map(({ id, path, role }) => ({ id: folderId(id), path, role })),
      labels: home.labels.map((label) => ({ ...label, id: labelId(label.id) })),
      markers: home.markers.map((marker) => ({ ...marker, id: markerId(marker.id) })),
    },
    macros: home.macros,
    decks: home.decks.filter((deck) => isDeckNumber(deck.number)) as Deck[],
  });
}

/** How many writes of settings are on their way, and how many there ever were. */
let writing = 0;
let writes = 0;
let line: Promise<unknown> = Promise.resolve();

/** Sends writes of settings one after another, so that the last one made is the last one stored. */
export async function inLine<T>(send: () => Promise<T>): Promise<T> {
  writing++;
  writes++;
  const mine = line.then(send);
  line = mine.catch(() => undefined);
  try {
    return await mine;
  } finally {
    writing--;
    if (writing === 0) void refreshSettings().catch(() => undefined);
  }
}

/**
 * Reads settings anew. What was read while the person changed something is old already, and is dropped: also
 * where the change was on its way when the reading began. The last write of a line reads once more.
 */
export async function refreshSettings(): Promise<void> {
  while (writing > 0) await line;
  const before = writes;
  const home = await get<Home>("/home");
  if (writing > 0 || writes !== before) return;
  takeHome(home);
  relist();
}

/** Messages that came in, gathered for a moment, since an import tells of them a hundred at a time. */
let arrived: number[] = [];
let gathering: ReturnType<typeof setTimeout> | null = null;
const GATHER_MS = 400;

function gather(ids: readonly number[]): void {
  arrived.push(...ids);
  gathering ??= setTimeout(() => {
    gathering = null;
    const now = arrived;
    arrived = [];
    fetchMessages(now).catch(() => gather(now));
  }, GATHER_MS);
}

/** Events are taken one after another: each may have to wait for rows to be read. */
function follow(after: number): void {
  let line = Promise.resolve();
  let last = after;
  const open = () => {
    const source = new EventSource(eventsAddress(last));
    source.onopen = () => {
      set({ link: "here" });
      // Changes of settings are not numbered: some may have been missed.
      void refreshSettings().catch(() => undefined);
    };
    source.addEventListener("written", (event) => {
      last = Number(event.lastEventId);
      const data = JSON.parse(event.data as string) as { kind: string; change: { arrived?: number[] } };
      if (data.kind === "arrival") gather(data.change.arrived ?? []);
      else line = line.then(() => arrive(data as unknown as EntryShape & { change: unknown })).catch(() => undefined);
    });
    source.addEventListener("settings", () => void refreshSettings().catch(() => undefined));
    source.onerror = () => {
      set({ link: "away" });
      // The browser connects again by itself unless it has given up.
      if (source.readyState !== EventSource.CLOSED) return;
      source.close();
      setTimeout(open, 1000);
    };
  };
  open();
}

async function loadIndex(): Promise<void> {
  const { directory } = view();
  const folder = folderFor(directory, "inbox") ?? directory.folders[0];
  const first = folder ? placeOf(folder) : "";
  const inbox = await getIndex({ narrow: first, limit: FIRST_PART });
  mergePart(() => mailbox.merge(inbox.columns));
  goToPlace(first);
  set({ phase: "ready", loading: mailbox.columns.count });
  for (let before: string | null = "start"; before !== null;) {
    const part = await getIndex(before === "start" ? { limit: PART } : { limit: PART, before });
    mergePart(() => mailbox.merge(part.columns));
    before = part.next;
    set({ loading: before === null ? null : mailbox.columns.count });
    relist();
  }
}

let started = false;

/** Loads everything once; screens may ask for it as often as they like. */
export async function start(): Promise<void> {
  if (started) return;
  started = true;
  try {
    const home = await get<Home>("/home");
    takeHome(home);
    setConfirmed(home.ledger);
    await loadIndex();
    await resume();
    follow(home.seq);
  } catch (error) {
    started = false;
    const failure =
      error instanceof Refused
        ? error.problem.detail
        : "The server does not answer. Is it running? Start it with npm run demo.";
    if (view().phase !== "ready") set({ phase: "failed", failure });
    setTimeout(() => void start(), 3000);
  }
}
