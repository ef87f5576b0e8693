import { MOST_IN_PASS, type PassDetail, type PassShape } from "@/core/api";
import { matchingRows, type ListOrder } from "@/core/list";
import { jumpIn, type Deed } from "@/core/pass";
import { countText, plural } from "../parts/words";
import { Away, get, write } from "./api";
import { arrangedAt, arrange } from "./arranged";
import { checkNarrow, expressionOf, goToBatch, goToPlace, relist, setFocus } from "./browse";
import { keepPass, keptPass } from "./kept-pass";
import { listedIds, maskOf } from "./listed";
import { firstOpen, progress, verdictsOf } from "./pass-view";
import { OWED, placeName } from "./places";
import { endOfQueue } from "./reflect";
import { targetIds } from "./select";
import { mailbox, notify, set, useView, view, type Pass } from "./store";

/** The walk through messages that is under way: begun, gone on with, left, and what was decided in it. */

/** What has come since it was begun, and would have been in it. */
export function arrivals({ queue, narrow, through }: Pass): number[] {
  const checked = checkNarrow(narrow);
  if (!checked.ok || mailbox.largestId <= through) return [];
  const mask = maskOf(checked.test);
  return [...matchingRows(mask)]
    .map((row) => mailbox.columns.id[row]!)
    .filter((id) => id > through && !queue.has(id) && !mailbox.leaving.has(id));
}

/** What is known of a pass but not told to the server yet. */
let news: { at?: number; skip: Set<number> } = { skip: new Set() };
let telling: ReturnType<typeof setTimeout> | undefined;
const TELL_MS = 800;
/** A pass the server does not know yet takes no decisions. */
let made: Promise<unknown> = Promise.resolve();
let isMade = true;
const RETRY_MS = 2000;

/** Tells the server of a pass, for as long as that takes. */
function make({ id, name, narrow, order, queue }: Pick<Pass, "id" | "name" | "narrow" | "order" | "queue">): void {
  isMade = false;
  made = (async () => {
    for (;;)
      try {
        await write("POST", "/passes", { id, name, narrow, order, queue: [...queue] });
        isMade = true;
        return;
      } catch (error) {
        if (!(error instanceof Away)) throw error;
        await new Promise<void>((resolve) => setTimeout(resolve, RETRY_MS));
      }
  })();
  made.catch(() => notify("The server does not take this pass: it cannot be gone on with elsewhere.", "trouble"));
}

export const whenPassIsThere = (): Promise<unknown> => made.catch(() => undefined);

function tell(id: string, more: object = {}): void {
  clearTimeout(telling);
  const { at, skip } = news;
  if (at === undefined && skip.size === 0 && Object.keys(more).length === 0) return;
  news = { skip: new Set() };
  const body = { ...(at === undefined ? {} : { at }), ...(skip.size === 0 ? {} : { skip: [...skip] }), ...more };
  // Where it is not noted, nothing is lost but the place: decisions are noted with their runs.
  void made.then(() => write("PATCH", `/passes/${id}`, body)).catch(() => undefined);
}

function tellSoon(id: string): void {
  clearTimeout(telling);
  telling = setTimeout(() => tell(id), TELL_MS);
}

/** When the focused message came before the eyes. */
let shownAt = 0;
/** Who looks away for longer than this has not been deciding. */
const LONGEST_LOOK_MS = 600_000;

/** Puts a pass on the screen. */
function show(pass: Pass, at: number | null): void {
  shownAt = performance.now();
  set({
    pass,
    order: pass.order,
    group: "none",
    opened: true,
    selection: { kind: "some", ids: new Set() },
    selected: 0,
  });
  relist();
  const open = firstOpen(0);
  const row = at === null ? undefined : mailbox.rowOf(at);
  const place = row === undefined ? -1 : view().listing.placeOf(row);
  if (place >= 0) setFocus(place);
  else if (open >= 0) setFocus(open);
  if (open < 0) endOfQueue();
}

/** Begins a pass over messages, in an order. */
function begin(ids: readonly number[], name: string, narrow: string, order: ListOrder): void {
  const id = crypto.randomUUID();
  make({ id, name, narrow, order, queue: new Set(ids) });
  const now = Date.now();
  const { place, conditions, batch } = view();
  show(
    {
      id,
      name,
      narrow,
      order,
      queue: new Set(ids),
      through: mailbox.largestId,
      deeds: [],
      skipped: new Set(),
      since: now,
      limit: null,
      ended: false,
      from: { place, conditions, batch },
    },
    null,
  );
}

/** Goes on with a pass where it was left, here or elsewhere. @param here the message this window was at, if it was in it */
export async function goOn({ id }: Pick<PassShape, "id">, here: number | null = null): Promise<void> {
  try {
    const read = await get<PassDetail>(`/passes/${id}`);
    const { queue, skipped, deeds, name, narrow, order, limit, at, through } = read;
    const { place, conditions, batch } = view();
    made = Promise.resolve();
    show(
      {
        id,
        name,
        narrow,
        order,
        limit,
        through,
        queue: new Set(queue),
        skipped: new Set(skipped),
        deeds: deeds.map((deed) => ({ ...deed, at: Date.parse(deed.at) })),
        since: Date.now(),
        ended: false,
        from: { place, conditions, batch },
      },
      here ?? at,
    );
  } catch (error) {
    if (error instanceof Away && goOnAway(id, here)) return;
    notify(error instanceof Error ? error.message : "The pass could not be read.", "trouble");
  }
}

/** The same without the server, with what this browser kept. @returns whether there was something */
export function goOnAway(id: string, here: number | null): boolean {
  const kept = keptPass(id);
  if (!kept) return false;
  if (!kept.isMade) make(kept.pass);
  show({ ...kept.pass, since: Date.now() }, here);
  return true;
}

/** What a pass on the list would be begun on. */
const here = (): string => expressionOf(view().place, view().conditions);

/** Begins a pass on what is selected, else on what is listed; one of the whole place that was left is gone on with. */
export function startPass(): void {
  const { selected, place, conditions, batch, home } = view();
  const narrow = here();
  const saved = home?.batches.find((one) => one.id === batch)?.name;
  const whole = (saved ?? ([placeName(place), ...conditions].join(", ") || "all mail")).slice(0, 180);
  const left = home?.passes.find((one) => one.narrow === narrow && one.name === whole);
  if (left && selected === 0) {
    notify(`Going on with the pass of ${left.name}: ${countText(left.length - left.decided)} to go.`);
    return void goOn(left);
  }
  const ids = selected > 0 ? targetIds() : [...listedIds()];
  if (ids.length === 0) return notify("There is no message to go through.");
  if (ids.length > MOST_IN_PASS)
    return notify(`A pass goes through ${countText(MOST_IN_PASS)} messages at most: narrow the list first.`, "trouble");
  const name = selected > 0 ? `${countText(ids.length)} of ${whole}` : whole;
  begin(ids, name, narrow, arrangedAt(place, batch).pass ?? "oldest");
}

function goBack({ place, conditions, batch }: Pass["from"]): void {
  if (batch === null) goToPlace(place, conditions);
  else goToBatch(batch, conditions);
}

/** Leaves it where it is: it can be gone on with, here or elsewhere. */
export function leavePass(): void {
  const { pass, focusId } = view();
  if (!pass) return;
  const { left, skipped } = progress(pass);
  const { from } = pass;
  goBack(from);
  if (focusId !== null) {
    const row = mailbox.rowOf(focusId);
    const place = row === undefined ? -1 : view().listing.placeOf(row);
    if (place >= 0) setFocus(place);
  }
  if (left + skipped > 0)
    notify(`The pass of ${pass.name} is left: ${countText(left + skipped)} to go. P goes on with it.`);
}

export const togglePass = (): void => (view().pass ? leavePass() : startPass());

/** A pass that came to its end is closed. */
export function closePass(): void {
  const { pass } = view();
  if (!pass) return;
  tell(pass.id, { ended: true });
  goBack(pass.from);
}

/** Forgets a pass that was left; what was decided in it stays. */
export async function forgetPass({ id, name }: Pick<PassShape, "id" | "name">): Promise<void> {
  try {
    await write("DELETE", `/passes/${id}`);
    notify(`The pass of ${name} is forgotten. What was decided in it stays.`);
  } catch (error) {
    notify(error instanceof Error ? error.message : "It could not be forgotten. Try again.", "trouble");
  }
}

/** Notes that a run decides messages of the pass. @returns how long the message was looked at; null outside of a pass */
export function noteDeed(run: string, macro: string, messages: Iterable<number>): { id: string; ms: number } | null {
  const { pass } = view();
  if (!pass) return null;
  const mine = [...messages].filter((id) => pass.queue.has(id));
  const ms = Math.round(Math.min(LONGEST_LOOK_MS, performance.now() - shownAt));
  const at = Date.now();
  const deeds = mine.map((message): Deed => ({ message, run, macro, ms, at }));
  set({ pass: { ...pass, deeds: [...pass.deeds, ...deeds] } });
  return { id: pass.id, ms };
}

/** Runs that were refused decided nothing. */
export function dropDeeds(runs: ReadonlySet<string>): void {
  const { pass } = view();
  if (pass?.deeds.some(({ run }) => runs.has(run)))
    set({ pass: { ...pass, deeds: pass.deeds.filter(({ run }) => !runs.has(run)) } });
}

/** Those that were passed over are gone through again. */
export function againSkipped(): void {
  const { pass } = view();
  if (!pass) return;
  set({ pass: { ...pass, skipped: new Set(), ended: false, since: Date.now() } });
  const at = firstOpen(0);
  if (at >= 0) setFocus(at);
}

/** What has come since it was begun is gone through as well. */
export function addArrivals(ids: readonly number[]): void {
  const { pass } = view();
  if (!pass || ids.length === 0) return;
  tell(pass.id, { add: ids, ended: false });
  set({ pass: { ...pass, queue: new Set([...pass.queue, ...ids]), ended: false, since: Date.now() } });
  relist();
  const at = firstOpen(0);
  if (at >= 0) setFocus(at);
  notify(`${plural(ids.length, "message")} more to go through.`);
}

/** Another order for what is to come, kept for the place. */
export function orderPass(order: ListOrder): void {
  const { pass } = view();
  if (!pass) return;
  set({ pass: { ...pass, order }, order });
  tell(pass.id, { order });
  arrange({ pass: order });
  relist();
}

/** Minutes the person wants to give it. */
export function limitPass(limit: number | null): void {
  const { pass } = view();
  if (!pass) return;
  set({ pass: { ...pass, limit } });
  tell(pass.id, { limit });
}

/** Goes to a number or a word. @returns what is wrong with it, or null */
export function jump(typed: string): string | null {
  const { listing, focus } = view();
  const found = jumpIn(typed, listing.items.length, focus, (place) => {
    const row = listing.items[place]!;
    return `${mailbox.text(row, "fromName")} ${mailbox.text(row, "fromAddress")} ${mailbox.text(row, "subject")}`;
  });
  if (!found.ok) return found.why;
  set({ anchor: null });
  setFocus(found.place);
  return null;
}

/** Begins a pass over what is owed. */
export function startOwed(order: ListOrder): void {
  closePass();
  goToPlace(OWED);
  const ids = [...listedIds()];
  if (ids.length > 0) begin(ids, placeName(OWED), OWED, order);
}

/** On from the message with the focus, decided or not: at the end of the queue to what was jumped over. */
export function passNext(): boolean {
  const { pass, focus, focusId, listing, decided } = view();
  if (!pass || pass.ended || focus < listing.items.length - 1) return false;
  if (focusId !== null && !decided.has(focusId)) skip(focusId);
  endOfQueue();
  return true;
}

function skip(id: number): void {
  const { pass } = view();
  if (!pass || pass.skipped.has(id) || !pass.queue.has(id)) return;
  news.skip.add(id);
  set({ pass: { ...pass, skipped: new Set([...pass.skipped, id]) } });
}

/** Follows the focus: a message one goes on from undecided was skipped, and how long each is looked at is told. */
export function followPass(): () => void {
  window.addEventListener("pagehide", () => {
    const { pass } = view();
    if (pass) tell(pass.id);
    keepPass(pass, isMade);
  });
  return useView.subscribe((now, before) => {
    const left = before.pass !== null && now.pass?.id !== before.pass.id;
    if (left) {
      const { left: open, skipped } = progress(before.pass!);
      tell(before.pass!.id, open + skipped === 0 ? { ended: true } : {});
    }
    if (!now.pass) return;
    if (!left && before.pass && now.pass.ended !== before.pass.ended) {
      if (!now.pass.ended) tell(now.pass.id, { ended: false });
      else if (progress(now.pass).skipped === 0) tell(now.pass.id, { ended: true });
    }
    // A window that goes without a word finds it again as it is now.
    if (now.link === "away" && now.pass !== before.pass) keepPass(now.pass, isMade);
    if (now.focusId === before.focusId) return;
    // Who goes back into it from its end is in it again.
    if (now.pass.ended && now.focusId !== null) set({ pass: { ...now.pass, ended: false } });
    shownAt = performance.now();
    if (now.focusId !== null) news.at = now.focusId;
    const went = !left && now.focus === before.focus + 1 && before.focusId !== null;
    if (went && !verdictsOf(now.pass).has(before.focusId!)) skip(before.focusId!);
    tellSoon(now.pass.id);
  });
}

/** What was decided in this pass by another window. */
export async function refreshPass(): Promise<void> {
  const open = view().pass;
  if (!open) return;
  const read = await get<PassDetail>(`/passes/${open.id}`).catch(() => null);
  const { pass } = view();
  if (!read || pass?.id !== open.id) return;
  const known = new Set(pass.deeds.map(({ run, message }) => `${run} ${message}`));
  const more = read.deeds.filter(({ run, message }) => !known.has(`${run} ${message}`));
  const deeds = [...pass.deeds, ...more.map((deed) => ({ ...deed, at: Date.parse(deed.at) }))];
  const queue = new Set([...pass.queue, ...read.queue]);
  set({ pass: { ...pass, deeds: deeds.sort((a, b) => a.at - b.at), queue } });
  relist();
}
