import type { MacroShape } from "@/core/api";
import { runId } from "@/core/id";
import {
  abilitiesOf,
  CONFIRM_ABOVE,
  mustConfirm,
  needsOf,
  textOfProblem,
  type Answers,
  type Plan,
  type Planned,
  type Step,
} from "@/core/macro";
import { restorable, type Hand } from "@/core/ledger";
import { cut } from "@/core/text";
import { handNow } from "../input/hand";
import { countText, plural } from "../parts/words";
import { openAtOnce } from "./compose";
import { keepTasksRead } from "./open-tasks";
import { noteDeed } from "./pass";
import { copyMessages } from "./pass-on";
import { seenGuesses } from "./guesses";
import { moveBy, targetDescription, targetIds } from "./select";
import { NONE } from "@/core/list";
import { placeName } from "./places";
import { reasonsText, reasonText } from "./reasons";
import { decideRun, planContext, type RunDecision } from "./decide";
import { advance, focusFirstOf } from "./reflect";
import { planIn } from "./settle";
import { mailbox, notify, set, view, type Seen } from "./store";

/** Running a macro: what it acts on, what it asks first, and where the focus goes afterwards. */

const LONGEST_ABOUT = 200;

type Described = RunDecision["described"];

interface Given {
  readonly ids?: readonly number[];
  /** The same messages as a description. */
  readonly described?: Described;
  readonly answers?: Answers;
  /** How many of them were chosen; the others belong to their threads. */
  readonly chosen?: number;
  /** With what it is made, where that is not the key or press that is under way. */
  readonly by?: Hand;
  /** The person has seen what it will do and agreed. */
  readonly agreed?: Seen;
}

/** The messages a macro acts on now. */
export function targetsOf(
  macro: Pick<MacroShape, "settings">,
  ids: readonly number[] = targetIds(),
): readonly number[] {
  const { whole } = macro.settings;
  return whole === undefined ? ids : mailbox.withThreads(ids, whole === "thread everywhere");
}

const planNow = (macro: MacroShape, ids: readonly number[], answers: Answers, at: Date): Planned =>
  planIn(mailbox, { macro, ids, answers, guesses: seenFor(macro, ids) }, { ...planContext(), now: at });

const guesses = (macro: MacroShape): boolean => needsOf(macro, { ...planContext(), now: new Date() }).guess;

/** What is shown of guesses, for a macro that files by them. */
const seenFor = (macro: MacroShape, ids: readonly number[]): number[][] => (guesses(macro) ? seenGuesses(ids) : []);

/** What a macro would do to some messages, for looking at it beforehand. */
export const foreseeOn = (macro: MacroShape, ids: readonly number[]): Planned => planNow(macro, ids, {}, new Date());
/** The same for what is selected. */
export const foresee = (macro: MacroShape): Planned => foreseeOn(macro, targetsOf(macro));

/** What a run is on, as the ledger says it: a subject, or how many from where. */
function aboutText(ids: readonly number[]): string {
  const row = ids.length === 1 ? mailbox.rowOf(ids[0]!) : undefined;
  if (row !== undefined) return cut(mailbox.text(row, "subject") || "(no subject)", LONGEST_ABOUT);
  const { place, batch, home } = view();
  const from = home?.batches.find((one) => one.id === batch)?.name ?? placeName(place);
  return cut(`${countText(ids.length)} from ${from}`, LONGEST_ABOUT);
}

/** Letters that go by themselves, and drafts. */
function lettersText({ things }: Plan): string {
  const letters = things.filter((thing) => thing.kind === "letter");
  const sent = letters.filter(({ letter }) => letter.goes === "outbox").length;
  return [
    sent > 0 && `${plural(sent, "letter")} in the outbox`,
    letters.length > sent && plural(letters.length - sent, "draft"),
  ]
    .filter(Boolean)
    .join(", ");
}

/** What a plan comes to, in a few words. */
function doneText(macro: MacroShape, plan: Plan, about: string): string {
  const parts = [
    plan.change.messages.size === 1
      ? about
      : plan.change.messages.size > 0 && plural(plan.change.messages.size, "message"),
    lettersText(plan),
    ...(["copy", "task", "event", "contact", "blocked", "listed"] as const).map((kind) => {
      const count = plan.things.filter((thing) => thing.kind === kind).length;
      if (count === 0) return false;
      if (kind === "copy") return count === 1 ? "1 copy" : `${count} copies`;
      if (kind === "blocked") return `${plural(count, "sender")} blocked`;
      return kind === "listed" ? `${plural(count, "sender")} added to a rule` : plural(count, kind);
    }),
    ...(["leaving", "aside", "report"] as const).map((kind) => {
      const some = plan.things.filter((thing) => thing.kind === kind);
      const count = new Set(some.map((thing) => (thing.kind === kind && "of" in thing ? thing.of : thing.source))).size;
      if (count === 0) return false;
      if (kind === "report") return `${count} reported`;
      const on = some.some((thing) => thing.kind === "aside" && thing.on);
      return `${plural(count, "sender")} ${kind === "leaving" ? "asked to send nothing more" : on ? "aside from now on" : "aside no more"}`;
    }),
    plan.unknown.length > 0 && `${plural(plan.unknown.length, "message")} for the server to read`,
  ].filter(Boolean);
  const left = plan.skipped.length > 0 ? ` ${reasonsText(plan.skipped.map(({ reason }) => reason))}.` : "";
  const comesBack = plan.things.length > 0 || plan.unknown.length > 0 || restorable(plan.change) > 0;
  const goesOut = plan.things.some(({ kind }) => kind === "leaving" || kind === "report");
  const said = parts.join(", ");
  // A subject may end as a sentence does.
  return `${macro.name}: ${said}${/[.!?…]$/.test(said) ? "" : "."}${left}${comesBack ? ` U takes it back${goesOut ? " until it has gone" : ""}.` : ""}`;
}

/** Nothing of it is for the server. */
const isIdle = ({ change, things, unknown }: Plan): boolean =>
  change.messages.size === 0 && things.length === 0 && unknown.length === 0;

/** Rows so many at the most say by themselves that they were left alone; more are told in the line below. */
const MOST_NOTED = 60;

/** Notes at rows that nothing was done for them, and why; what is acted on loses its note. */
function noteAt(ids: readonly number[], skipped: readonly { readonly message: number; readonly why: string }[]): void {
  const { notDone } = view();
  if (notDone.size === 0 && skipped.length === 0) return;
  const next = new Map(notDone);
  for (const id of ids) next.delete(id);
  if (skipped.length <= MOST_NOTED) for (const { message, why } of skipped) next.set(message, why);
  set({ notDone: next });
}

/**
 * A macro that can do nothing for a message lets the focus go on like any other, and its row says that it was not
 * done and why: in a burst of keys each is meant for one message, and none must hit the one before its own.
 */
function notDone(macro: MacroShape, ids: readonly number[], why: string): void {
  set({ dialog: null });
  if (ids.length === 1) {
    noteAt(ids, [{ message: ids[0]!, why }]);
    refocus(macro, ids);
  }
  notify(`${macro.name}, not done: ${why}.`, "trouble");
}

function refocus(macro: MacroShape, acted: readonly number[]): void {
  const { focus = "next" } = macro.settings;
  if (focus === "next") return advance(new Set(acted));
  if (focus === "previous") return moveBy(-1, false);
  if (focus === "back") set({ opened: false });
}

/** A thumb slips more easily than a finger on a key: there, hundreds are asked about. */
const ABOVE_BY_TOUCH = 100;
const askedAbove = (): number => (window.matchMedia("(pointer: coarse)").matches ? ABOVE_BY_TOUCH : CONFIRM_ABOVE);

/** More drafts at once than this are hardly meant. */
const MOST_DRAFTS = 20;

/** Several letters that go by themselves are looked at before they do, and so is a pile of drafts. */
function writesMany({ things }: Plan): boolean {
  const letters = things.filter((thing) => thing.kind === "letter");
  const sent = letters.filter(({ letter }) => letter.goes === "outbox").length;
  return sent > 1 || letters.length - sent > MOST_DRAFTS;
}

/** Runs a macro on what is selected. Asks first what it needs to know, and where it must, whether to. */
export function runMacro(macro: MacroShape, given: Given = {}): void {
  const own = given.ids ?? targetIds();
  const ids = given.ids ?? targetsOf(macro, own);
  const chosen = given.chosen ?? own.length;
  const described = given.ids === undefined ? targetDescription() : (given.described ?? null);
  if (ids.length === 0) return notify("There is no message to act on.");
  // Half a thread is not what is meant.
  if (macro.settings.whole && view().loading !== null)
    return notDone(macro, own, "the mailbox is still being read, and not all of the thread is here");
  const answers = given.answers ?? {};
  // What was agreed to is what is done, unless the mailbox has changed meanwhile.
  const seen = given.agreed?.version === view().version ? given.agreed : null;
  const at = seen?.at ?? new Date();
  const planned: Planned = seen ? { ok: true, plan: seen.plan } : planNow(macro, ids, answers, at);
  if (!planned.ok) return notDone(macro, ids, `it cannot run. ${planned.problems.map(textOfProblem).join(" ")}`);
  const { plan } = planned;
  // What only the server could tell is known here the next time, as far as that are tasks.
  if (plan.unknown.length > 0) keepTasksRead();
  // What goes to many places is looked at before it does.
  if (!seen && ids.length > 1 && guesses(macro)) return set({ dialog: { kind: "file-all", macro, ids } });
  if (plan.asks.length > 0)
    return set({ dialog: { kind: "ask", macro, ids, described, questions: plan.asks, answers, chosen } });
  if (isIdle(plan) && plan.texts.length > 0) {
    copyMessages(plan.texts);
    set({ selection: NONE, selected: 0, anchor: null, dialog: null, ...(macro.id > 0 ? { lastMacro: macro.id } : {}) });
    return refocus(macro, ids);
  }
  if (isIdle(plan))
    return notDone(
      macro,
      ids,
      ids.length === 1 && plan.skipped[0]
        ? reasonText(plan.skipped[0].reason)
        : reasonsText(plan.skipped.map(({ reason }) => reason)),
    );
  const touched = new Set([
    ...plan.change.messages.keys(),
    ...plan.things.map((thing) => thing.source),
    ...plan.unknown,
  ]).size;
  if (
    !given.agreed &&
    (writesMany(plan) ||
      mustConfirm(
        macro.settings,
        touched,
        abilitiesOf(macro, view().macros).confirms,
        ids.length - chosen,
        askedAbove(),
      ))
  )
    return set({
      dialog: { kind: "confirm", macro, ids, described, answers, chosen, seen: { plan, at, version: view().version } },
    });
  // Number 0 is no macro of the person's: there is nothing to run again by name.
  const stored = macro.id > 0 ? { lastMacro: macro.id } : {};
  set({ selection: NONE, selected: 0, anchor: null, dialog: null, ...stored });
  if (plan.texts.length > 0) copyMessages(plan.texts);
  const { name, steps, settings } = macro;
  const id = runId(crypto.randomUUID());
  const { recording } = view();
  if (recording) set({ recording: [...recording, { id, steps, answers }] });
  const about = aboutText(ids);
  const pass = noteDeed(id, name, [...plan.change.messages.keys(), ...plan.things.map(({ source }) => source)]);
  decideRun(
    {
      kind: "run",
      id,
      at: at.toISOString(),
      macro: { ...(macro.id > 0 ? { id: macro.id } : {}), name, steps, settings },
      ids,
      described,
      answers,
      ...(guesses(macro) ? { guesses: seenGuesses(ids) } : {}),
      about,
      by: given.by ?? handNow(),
      ...(pass ? { pass } : {}),
    },
    plan.change,
  );
  const [letter] = plan.pauses.length === 1 ? plan.things.filter((thing) => thing.kind === "letter") : [];
  // What is to be written is there to be written in the next frame.
  const writes = letter !== undefined && ids.length === 1;
  if (writes) openAtOnce(letter.letter.how, letter.source, id);
  noteAt(
    ids,
    plan.skipped.map(({ message, reason }) => ({ message, why: reasonText(reason) })),
  );
  // Who writes an answer goes on once it is sent.
  if (!writes) refocus(macro, ids);
  notify(doneText(macro, plan, about));
}

/** Runs steps that are no macro of the person's, such as a press on a label. */
export const runSteps = (name: string, steps: readonly Step[], ids: readonly number[]): void =>
  runMacro(
    { id: 0, name, colour: "slate", steps: [...steps], settings: { focus: "stay" }, uses: 0, usedAt: null },
    { ids },
  );

export function again(): void {
  const { lastMacro, macros } = view();
  const macro = macros.find((m) => m.id === lastMacro);
  if (macro) runMacro(macro);
  else notify("There is no macro to run again yet.");
}

/** Puts the focus on the first message of the list that a key could do nothing for. */
export const focusNotDone = (): void => focusFirstOf(new Set(view().notDone.keys()));
