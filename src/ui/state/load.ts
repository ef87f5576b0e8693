import { isDeckNumber } from "@/core/keys";
import type { Deck } from "@/core/keys";
import type { EntryShape, Home } from "@/core/api";
import { folderId, labelId, markerId } from "@/core/id";
import { RowIndex } from "@/core/columns";
import { folderFor } from "@/core/place";
import { Away, eventsAddress, get, getIndex, Refused } from "./api";
import type { LoadNews, LoadRequest } from "./index-worker";
import { goToPlace, relist } from "./browse";
import { arrive, fetchMessages, mergePart, resume, setConfirmed } from "./decide";
import { placeOf } from "./places";
import { mailbox, set, view } from "./store";
import { forgetWords } from "./words";

/** Filling the view when a window opens, and keeping it up to date after. */

/** The first part of the index: as much of the inbox as a person sees at once, and some way down. */
const FIRST_PART = "500";

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
/** The index of words goes on several times a second: as often nobody wants to be shown other results. */
const LOOK_AGAIN_MS = 2000;

function gather(ids: readonly number[]): void {
  arrived.push(...ids);
  gathering ??= setTimeout(() => {
    gathering = null;
    const now = arrived;
    arrived = [];
    fetchMessages(now).catch(() => gather(now));
  }, GATHER_MS);
}

/** More of the mail can be searched by its words: searches that are open are made again. */
let looking: ReturnType<typeof setTimeout> | null = null;
function moreWords(): void {
  looking ??= setTimeout(() => {
    looking = null;
    void refreshSettings()
      .then(() => {
        forgetWords();
        relist();
      })
      .catch(() => undefined);
  }, LOOK_AGAIN_MS);
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
    source.addEventListener("words", moreWords);
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

/** The first screen, without waiting for the rest. */
async function showFirst(): Promise<void> {
  const { directory } = view();
  const folder = folderFor(directory, "inbox") ?? directory.folders[0];
  const first = folder ? placeOf(folder) : "";
  const inbox = await getIndex({ narrow: first, limit: FIRST_PART });
  // The whole index may have been faster, out of what the browser kept.
  if (view().phase === "ready") return;
  mergePart(() => mailbox.merge(inbox.columns));
  goToPlace(first);
  set({ phase: "ready", loading: mailbox.columns.count });
}

/** The whole index, brought by a worker. @returns the write after which events are to be followed */
function loadIndex({ person, messages }: Home): Promise<number> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL("./index-worker.ts", import.meta.url), { type: "module" });
    const fail = (why: string) => {
      worker.terminate();
      reject(new Error(why));
    };
    worker.onerror = () => fail("The index cannot be read in this browser.");
    worker.onmessage = ({ data }: MessageEvent<LoadNews>) => {
      if (data.kind === "failed") return fail(data.why);
      if (data.kind === "read") return set({ loading: data.messages });
      const { columns, rows, seq, whole } = data;
      mergePart(() => mailbox.use(columns, new RowIndex(columns.id, columns.count, rows)));
      if (view().phase === "ready") relist();
      else goToPlace(placeOf(folderFor(view().directory, "inbox") ?? { path: "Inbox", role: null }));
      set({ phase: "ready", loading: whole ? null : columns.count });
      if (whole) resolve(seq);
    };
    // What is still to be written to the browser's file system when the columns are here ends by itself.
    worker.postMessage({ token: person.token, total: messages } satisfies LoadRequest);
  });
}

/** For a window that shows one message: no list, so no index. */
export async function startReading(): Promise<void> {
  try {
    takeHome(await get<Home>("/home"));
    set({ phase: "ready", loading: null });
  } catch {
    set({ phase: "failed", failure: AWAY });
    setTimeout(() => void startReading(), RETRY_MS);
  }
}

const AWAY = "The server does not answer. Is it running? Start it with npm run demo.";
const RETRY_MS = 3000;
let started = false;

/** Loads everything once; screens may ask for it as often as they like. */
export async function start(): Promise<void> {
  if (started) return;
  started = true;
  try {
    const home = await get<Home>("/home");
    takeHome(home);
    setConfirmed(home.ledger);
    const whole = loadIndex(home);
    await Promise.race([showFirst(), whole]);
    const seq = await whole;
    await resume();
    follow(Math.min(seq, home.seq));
  } catch (error) {
    started = false;
    const known = error instanceof Refused || error instanceof Away;
    // A fault of the window's own must not be taken for a server that is away.
    if (!known) console.error(error);
    const failure =
      error instanceof Refused ? error.problem.detail : known ? AWAY : `The window failed: ${String(error)}`;
    if (view().phase !== "ready") set({ phase: "failed", failure });
    setTimeout(() => void start(), RETRY_MS);
  }
}
