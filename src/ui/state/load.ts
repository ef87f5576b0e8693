import type { Home } from "@/core/api";
import { RowIndex } from "@/core/columns";
import { folderFor } from "@/core/place";
import { mergePart } from "./arrive";
import { Away, Failed, get, getIndex, Refused, SignedOut } from "./api";
import { keepAnswer, keptAnswer, ownAnswers } from "./kept-answers";
import { noteBase } from "./keep-up";
import { noteKept } from "./link";
import { keepTextsAhead } from "./text-ahead";
import type { LoadNews, LoadRequest } from "./index-worker";
import { keepPlace, lastHere, type Here } from "./arranged";
import { checkNarrow, expressionOf, goToBatch, goToPlace, relist } from "./browse";
import { followPass, goOn, goOnAway } from "./pass";
import { followReading } from "./reading";
import { noteHeld, resume, showLedger } from "./decide";
import { Follower } from "./follow";
import { bringToFront } from "./reflect";
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

/** The message a window of its own is about, until it is in front. */
let wanted: number | null = null;

function showWanted(): void {
  if (wanted !== null && bringToFront(wanted)) wanted = null;
}

/** Whether a place is open; a window of one message is ready before that. */
let isOpen = false;

function openFirst(): void {
  isOpen = true;
  const { place, conditions, batch } = firstPlace();
  if (batch === null) goToPlace(place, conditions);
  else goToBatch(batch, conditions);
  showWanted();
}

/** The first screen, without waiting for the rest. */
async function showFirst(): Promise<void> {
  const { place, conditions } = firstPlace();
  const inbox = await getIndex({ narrow: expressionOf(place, conditions), limit: FIRST_PART });
  // The whole index may have been faster, out of what the browser kept.
  if (isOpen) return;
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
      if (data.kind === "kept") return;
      const { columns, rows, seq, whole, base, asOf } = data;
      if (asOf !== null) noteKept(asOf);
      mergePart(() => mailbox.use(columns, new RowIndex(columns.id, columns.count, rows)));
      if (isOpen) relist();
      else openFirst();
      set({ phase: "ready", loading: whole ? null : columns.count });
      if (!whole) return;
      showWanted();
      noteBase(base);
      resolve(seq);
    };
    // What is still to be written to the browser's file system when the columns are here ends by itself.
    worker.postMessage({ token: person.token, total: messages } satisfies LoadRequest);
  });
}

/** A server that does not answer, and not one that knows nobody here. */
const isAway = (error: unknown): boolean => error instanceof Away && !(error instanceof SignedOut);

/** Whose mail it is, their settings and places: the server's word, or without a connection its last one. */
async function readHome(): Promise<Home> {
  try {
    const home = await get<Home>("/home");
    await ownAnswers(home.person.token);
    void keepAnswer("/home", JSON.stringify(home));
    return home;
  } catch (error) {
    const kept = isAway(error) ? await keptAnswer<Home>("/home") : null;
    if (!kept) throw error;
    noteKept(kept.at);
    return kept.value;
  }
}

/**
 * For a window of one message or letter, which is there before the list is.
 * @param message it decides about, and goes on from, once the list is there
 */
export async function startAlone(message: number | null): Promise<void> {
  try {
    takeHome(await readHome());
    set({ phase: "ready", loading: null });
    wanted = message;
    if (message !== null) await start();
  } catch {
    set({ phase: "failed", failure: AWAY });
    setTimeout(() => void startAlone(message), RETRY_MS);
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
    keepTextsAhead();
  }
  try {
    const home = await readHome();
    takeHome(home);
    showLedger(home.ledger);
    const isAlone = wanted !== null;
    const whole = loadIndex(home);
    // Where there is no first part, there may be all of it, out of what the browser kept.
    await Promise.any([showFirst(), whole]).catch(({ errors }: AggregateError) => {
      throw errors[0];
    });
    const through = Math.min(await whole, home.seq);
    noteHeld(through);
    await resume();
    const walking = isAlone ? null : lastHere()?.pass;
    const open = view().home?.passes.find(({ id }) => id === walking);
    if (open) await goOn(open, view().focusId);
    else if (walking) goOnAway(walking, view().focusId);
    new Follower(through, view().asOf !== null, () => loadIndex(view().home ?? home)).open();
  } catch (error) {
    started = false;
    // Another screen is on its way.
    if (error instanceof SignedOut) return;
    const known = error instanceof Refused || error instanceof Away || error instanceof Failed;
    // A fault of the window's own must not be taken for a server that is away.
    if (!known) console.error(error);
    const failure =
      error instanceof Refused ? error.problem.detail : known ? AWAY : `The window failed: ${String(error)}`;
    if (view().phase !== "ready") set({ phase: "failed", failure });
    setTimeout(() => void start(), RETRY_MS);
  }
}
