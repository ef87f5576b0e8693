import { touchedBy, type Change } from "@/core/change";
import type { EntryShape, MacroShape, ProblemShape, RunAnswer, RunRequest, UndoAnswer } from "@/core/api";
import { messageId, runId, type RunId } from "@/core/id";
import { nextRedo, nextUndo } from "@/core/ledger";
import { matchingRows } from "@/core/list";
import type { PlanContext } from "@/core/macro";
import { plural } from "../parts/words";
import { afterPaint } from "./after-paint";
import { isWell, serverNow, write } from "./api";
import { checkNarrow, relist } from "./browse";
import { shownEntries } from "./entries";
import { leaveRun, neverBegun, openDraft, openWaiting, resumeLetters, sentHere, tellOfRuns } from "./compose";
import { isQuietSince } from "./idle";
import { KeptDecisions } from "./kept";
import { maskOf } from "./listed";
import { SendQueue, type Answer, type Kept } from "./queue";
import { dropDeeds, whenPassIsThere } from "./pass";
import { noteLink } from "./link";
import { noteFolders } from "./recent";
import { reasonsText } from "./reasons";
import { focusFirstOf, reflect, type Deed } from "./reflect";
import type { Decision } from "./decision";
import { Settler } from "./settle";
import { mailbox, notify, set, view } from "./store";

/** Deciding: every change of mail that a person makes begins here. */

/** What plans are made with here, but for the time. */
export const planContext = (): Omit<PlanContext, "now"> => ({
  directory: view().directory,
  macros: view().macros,
  templates: view().home?.templates ?? [],
  zone: view().home?.person.zone ?? "UTC",
  leastSure: view().home?.settings.leastSure ?? 0,
});

/** What is on its way, on top of what the server has said. */
export const settler = new Settler(mailbox, planContext);

export type RunDecision = Extract<Decision, { kind: "run" }>;

/** Shows the ledger anew: what the server confirmed, and what is on its way. */
export function showLedger(confirmed = view().confirmed): void {
  set({ confirmed, ledger: shownEntries(confirmed, settler.onItsWay), waiting: settler.onItsWay.length });
}

async function send(decision: Decision): Promise<Answer> {
  if (decision.kind !== "run")
    return write<UndoAnswer>("POST", `/ledger/${decision.of}/${decision.kind}`, { id: decision.id });
  const { id, macro, ids, described, answers, guesses, at, about, by, cause, pass } = decision;
  const request: RunRequest = {
    id,
    macro: { ...macro, steps: [...macro.steps], ...(macro.settings ? { settings: macro.settings } : {}) },
    target: described ?? { ids: [...ids] },
    answers: { ...answers },
    ...(guesses ? { guesses: guesses.map((seen) => [...seen]) } : {}),
    at,
    about,
    ...(cause ? { cause } : {}),
    ...(by ? { by } : {}),
    ...(pass ? { pass } : {}),
  };
  if (pass) await whenPassIsThere();
  return write<RunAnswer>("POST", "/runs", request);
}

/** The view without some decisions, as if they had not been made. */
function withdraw(decisions: readonly Decision[]): void {
  dropDeeds(new Set(decisions.map(({ id }) => id)));
  const touched = new Set<number>();
  for (const { id } of decisions) for (const message of settler.refuse(id)) touched.add(message);
  showLedger();
  reflect(touched, null);
}

/** Shows that decisions are no longer on their way. @param touched null where all of them are */
function showWritten(touched: ReadonlySet<number> | null): void {
  if (!touched) return;
  showLedger();
  reflect(touched, null);
}

/** The view holds all that the server wrote up to that, whichever way it came. */
export function noteHeld(through: number): void {
  showWritten(settler.holds(through));
}

function answered(decision: Decision, answer: Answer): void {
  if (answer.entry) showWritten(settler.written(decision.id, answer.entry.seq));
  // What the window saw beforehand it has said already.
  const late = answer.skipped.filter(
    ({ reason }) => reason === "gone" || reason === "changed-elsewhere" || reason === "sent",
  );
  if (late.length > 0) notify(`${reasonsText(late.map(({ reason }) => reason))}.`, "trouble");
  const called = decision.kind === "undo" ? sentHere.get(decision.of) : undefined;
  if (called !== undefined) openDraft(called);
  if (decision.kind !== "run" || !("asks" in answer)) return;
  if (answer.waiting.length > 0) openWaiting(decision.id, answer.waiting);
  if (answer.asks.length === 0) return;
  withdraw([decision]);
  askLate(decision, answer.asks);
}

/**
 * What only the server could see has to be asked. Where the person has gone on meanwhile a question would take keys
 * that are meant for other mail: then the rows say so, and the macro run again asks.
 */
function askLate({ macro, ids, described = null, answers, at }: RunDecision, asks: RunAnswer["asks"]): void {
  if (view().dialog === null && view().composing === null && isQuietSince(Date.parse(at))) {
    const { id = 0, name, steps, settings = {} } = macro;
    const shape: MacroShape = { id, name, colour: "slate", steps: [...steps], settings, uses: 0, usedAt: null };
    const chosen = ids.length;
    const questions = asks.map((one) => ({ ...one, message: one.message === null ? null : messageId(one.message) }));
    return set({ dialog: { kind: "ask", macro: shape, ids, described, questions, answers, chosen } });
  }
  const why = `it asks: ${asks[0]!.prompt} Run it again to answer`;
  set({ notDone: new Map([...view().notDone, ...ids.map((id) => [id, why] as const)]) });
  notify(`${macro.name}, not done: ${why}.`, "trouble");
}

/** Nothing of a run can be taken back any more: that is said once, and undo goes on to the run before it. */
function passOver(undo: Exclude<Decision, { kind: "run" }>, why: string): void {
  set({ stuck: new Set([...view().stuck, undo.of]) });
  showLedger();
  if (undo.kind === "undo" && undo.byKey) takeBack("undo", undefined, `“${undo.name}” cannot be taken back: ${why} `);
  else notify(`“${undo.name}” cannot be taken back: ${why}`, "trouble");
}

function undone(decisions: readonly Decision[], why: string, problem: ProblemShape | null): boolean {
  withdraw(decisions);
  if (decisions.some(({ kind }) => kind === "run")) void neverBegun(why);
  const [first] = decisions;
  if (first && first.kind !== "run" && problem?.type === NOTHING_LEFT) {
    passOver(first, why);
    return false;
  }
  notify(`Not done: ${why}`, "trouble");
  return true;
}

const NOTHING_LEFT = "urn:tachyne:nothing-left";

interface Outgoing {
  readonly queue: SendQueue;
  readonly kept: KeptDecisions;
}

let outgoing: Outgoing | null = null;

/** Made once it is known whose mail this is. */
function out(): Outgoing {
  if (outgoing) return outgoing;
  const kept = new KeptDecisions(view().home!.person.token);
  const host = {
    send,
    isWell,
    keep: (what: Kept) => kept.keep(what),
    pause: (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms)),
  };
  const queue = new SendQueue(host, {
    answered,
    undone,
    link: noteLink,
    aside: (aside) => set({ aside }),
    unkept: (isKept) =>
      !isKept && notify("This browser keeps nothing: leave the window open until all is sent.", "trouble"),
  });
  return (outgoing = { queue, kept });
}

/** When this window decided: the server says when it wrote, which may be after what was done here next. */
const decidedMs = new Map<string, number>();
/** When a run was made, as far as order goes; milliseconds by the server's clock. */
export const doneMs = ({ id, at }: Pick<EntryShape, "id" | "at">): number => decidedMs.get(id) ?? Date.parse(at);

function decide(decision: Decision, planned?: Change): Change {
  decidedMs.set(decision.id, serverNow());
  const change = settler.decide(decision, planned);
  afterPaint(() => out().queue.add(decision));
  return change;
}

/** What was done, for the rows that leave a list by it. */
export const deedOf = (run: RunDecision): Deed => ({ key: run.id, text: `${run.macro.name}: ${run.about}` });

/** Makes a run in the view and sends it. */
export function decideRun(run: RunDecision, planned: Change): void {
  decide(run, planned);
  afterPaint(() => noteFolders(planned));
  reflect(new Set(planned.messages.keys()), deedOf(run));
  showLedger();
}

/** What the undo key passes over, said once for each run. */
function passedText(passed: readonly EntryShape[]): string {
  const { saidPassed } = view();
  const fresh = passed.filter((entry) => !saidPassed.has(entry.id));
  if (fresh.length === 0) return "";
  set({ saidPassed: new Set([...saidPassed, ...fresh.map((entry) => entry.id)]) });
  return `${fresh.map((entry) => `“${entry.macro.name}”`).join(", ")} cannot be taken back. `;
}

/**
 * Takes back or does again the run in question: the given one, or the next in line.
 * @param before what is said before what was done
 */
export function takeBack(kind: "undo" | "redo", entry?: EntryShape, before = ""): void {
  const entries = view().ledger.map((e) => ({ ...e, id: runId(e.id), of: e.of === null ? null : runId(e.of) }));
  const { target: undoable, passed } = nextUndo(entries, view().stuck);
  const reading = kind === "undo" && !entry ? entries.find(({ id }) => id === view().lastReading) : undefined;
  const target = entry ?? reading ?? (kind === "undo" ? undoable : nextRedo(entries));
  set({ lastReading: null });
  const said = before || (entry || kind === "redo" ? "" : passedText(passed));
  if (!target)
    return notify(`${said}${kind === "undo" ? "There is nothing to take back." : "There is nothing to do again."}`);
  const { name } = target.macro;
  const change = decide({
    kind,
    id: runId(crypto.randomUUID()),
    of: runId(target.id),
    name,
    at: new Date().toISOString(),
    ...(entry ? {} : { byKey: true }),
  });
  const touched = new Set<number>(touchedBy(change));
  // What a pass holds for decided is told by the ledger.
  showLedger();
  reflect(touched, kind === "redo" ? { key: target.id, text: `${name}: ${target.about}` } : null);
  if (kind === "undo") focusFirstOf(touched);
  const done = kind === "undo" ? "Took back" : "Did again";
  const about = target.about || (touched.size > 0 ? plural(touched.size, "message") : "");
  notify(`${said}${done}: ${name}${about === "" ? "" : `, ${about}`}.`);
}

/** Messages that an expression means now, as far as this window knows their words. */
export function idsMatching(narrow: string): number[] {
  const checked = checkNarrow(narrow);
  return checked.ok ? [...matchingRows(maskOf(checked.test))].map((row) => mailbox.columns.id[row]!) : [];
}

/** A decision on a described selection, with the messages that the description means now. */
function withIds(decision: Decision): Decision {
  if (decision.kind !== "run" || !decision.described) return decision;
  const { narrow, except = [], through = Infinity } = decision.described;
  if (!checkNarrow(narrow).ok) return decision;
  const left = new Set(except);
  return { ...decision, ids: idsMatching(narrow).filter((id) => id <= through && !left.has(id)) };
}

/** Decisions of windows that were closed before the server heard of them. */
export async function resume(): Promise<void> {
  const { queue, kept } = out();
  await kept
    .adopt(async ({ waiting, aside }) => {
      for (const decision of [...waiting].sort((a, b) => a.at.localeCompare(b.at))) {
        leaveRun(decision.id);
        const whole = withIds(decision);
        settler.decide(whole);
        // Kept here before it is forgotten there: a window that is closed in between loses nothing.
        queue.add(whole);
      }
      await queue.takeOver({ aside });
    })
    // A browser that keeps nothing has nothing to hand over.
    .catch(() => undefined);
  tellOfRuns((run) => settler.onItsWay.some(({ decision }) => decision.id === run));
  await resumeLetters();
  showLedger();
  relist();
}

/** Decides once more what was set aside. */
export function tryAgain(id: RunId): void {
  const decision = out().queue.recall(id);
  if (!decision) return;
  const change = decide(withIds(decision));
  reflect(new Set(change.messages.keys()), decision.kind === "run" ? deedOf(decision) : null);
  showLedger();
}

/** Gives up what was set aside; the view never held it. */
export function throwAway(id: RunId): void {
  out().queue.recall(id);
}
