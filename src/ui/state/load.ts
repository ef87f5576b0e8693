import type { Home } from "@/core/api";
import { RowIndex } from "@/core/columns";
import { folderFor } from "@/core/place";
import { mergePart } from "./arrive";
import { Away, Failed, get, getIndex, Refused } from "./api";
import type { LoadNews, LoadRequest } from "./index-worker";
import { keepPlace, lastHere, type Here } from "./arranged";
import { checkNarrow, expressionOf, goToBatch, goToPlace, relist } from "./browse";
import { followPass, goOn } from "./pass";
import { followReading } from "./reading";
import { resume, showLedger } from "./decide";
import { Follower } from "./follow";
import { placeOf } from "./places";
import { takeHome } from "./settings";
import { mailbox, set, view } from "./store";

/** Filling the view when a window opens, and keeping it up to date after. */

/** The first part of the index: as much of the inbox as a person sees at once, and some way down. */
const FIRST_PART = "500";

/** Where the person was last, if that can still be shown; else the inbox. */
function firstPlace(): Here {
  const { directory, home } = view();
  const here = lastHere();
  const batch = here?.batch ?? null;
  const isThere = batch === null || home?.batches.some((one) => one.id === batch);
  if (here && isThere && checkNarrow(expressionOf(here.place, here.conditions)).ok) return here;
  const folder = folderFor(directory, "inbox") ?? directory.folders[0];
  return { place: folder ? placeOf(folder) : "", conditions: [], batch: null };
}

function openFirst(): void {
  const { place, conditions, batch } = firstPlace();
  if (batch === null) goToPlace(place, conditions);
  else goToBatch(batch, conditions);
}

/** The first screen, without waiting for the rest. */
async function showFirst(): Promise<void> {
  const { place, conditions } = firstPlace();
  const inbox = await getIndex({ narrow: expressionOf(place, conditions), limit: FIRST_PART });
  // The whole index may have been faster, out of what the browser kept.
  if (view().phase === "ready") return;
  mergePart(() => mailbox.merge(inbox.columns));
  openFirst();
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
      else openFirst();
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
let follows = false;

/** Loads everything once; screens may ask for it as often as they like. */
export async function start(): Promise<void> {
  if (started) return;
  started = true;
  if (!follows) {
    follows = true;
    window.addEventListener("pagehide", keepPlace);
    followReading();
    followPass();
  }
  try {
    const home = await get<Home>("/home");
    takeHome(home);
    showLedger(home.ledger);
    const whole = loadIndex(home);
    await Promise.race([showFirst(), whole]);
    const seq = await whole;
    await resume();
    const walking = lastHere()?.pass;
    const open = view().home?.passes.find(({ id }) => id === walking);
    if (open) await goOn(open, view().focusId);
    new Follower(Math.min(seq, home.seq), () => loadIndex(view().home ?? home)).open();
  } catch (error) {
    started = false;
    const known = error instanceof Refused || error instanceof Away || error instanceof Failed;
    // A fault of the window's own must not be taken for a server that is away.
    if (!known) console.error(error);
    const failure =
      error instanceof Refused ? error.problem.detail : known ? AWAY : `The window failed: ${String(error)}`;
    if (view().phase !== "ready") set({ phase: "failed", failure });
    setTimeout(() => void start(), RETRY_MS);
  }
}
