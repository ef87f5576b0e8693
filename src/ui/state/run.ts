import type { MacroShape } from "@/core/api";
import { runId } from "@/core/id";
import {
  abilitiesOf,
  mustConfirm,
  textOfProblem,
  type Answers,
  type Plan,
  type Planned,
  type Step,
} from "@/core/macro";
import { plural } from "../parts/words";
import { moveBy, targetDescription, targetIds } from "./select";
import { NONE } from "@/core/list";
import { decideRun, planContext, type RunDecision } from "./decide";
import { advance } from "./reflect";
import { planIn } from "./settle";
import { mailbox, notify, set, view, type Seen } from "./store";

/** Running a macro: what it acts on, what it asks first, and where the focus goes afterwards. */

type Described = RunDecision["described"];

interface Given {
  readonly ids?: readonly number[];
  /** The same messages as a description. */
  readonly described?: Described;
  readonly answers?: Answers;
  /** How many of them were chosen; the others belong to their threads. */
  readonly chosen?: number;
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
  planIn(mailbox, { macro, ids, answers }, { ...planContext(), now: at });

/** What a macro would do to some messages, for looking at it beforehand. */
export const foreseeOn = (macro: MacroShape, ids: readonly number[]): Planned => planNow(macro, ids, {}, new Date());
/** The same for what is selected. */
export const foresee = (macro: MacroShape): Planned => foreseeOn(macro, targetsOf(macro));

/** What a plan comes to, in a few words. */
function doneText(macro: MacroShape, plan: Plan): string {
  const parts = [
    plan.change.messages.size > 0 && plural(plan.change.messages.size, "message"),
    ...(["copy", "task", "contact", "blocked"] as const).map((kind) => {
      const count = plan.things.filter((thing) => thing.kind === kind).length;
      if (count === 0) return false;
      if (kind === "copy") return count === 1 ? "1 copy" : `${count} copies`;
      return kind === "blocked" ? `${plural(count, "sender")} blocked` : plural(count, kind);
    }),
    plan.unknown.length > 0 && `${plural(plan.unknown.length, "message")} for the server to read`,
  ].filter(Boolean);
  if (parts.length === 0) {
    const [first] = plan.skipped;
    return `${macro.name}: nothing to change${first?.reason === "not-for" ? ", it is not for this" : ""}.`;
  }
  return `${macro.name}: ${parts.join(", ")}.${plan.gone > 0 ? "" : " U takes it back."}`;
}

function refocus(macro: MacroShape): void {
  const { focus = "next" } = macro.settings;
  if (focus === "next") return advance();
  if (focus === "previous") return moveBy(-1, false);
  if (focus === "back") set({ opened: false });
}

/** Runs a macro on what is selected. Asks first what it needs to know, and where it must, whether to. */
export function runMacro(macro: MacroShape, given: Given = {}): void {
  const own = given.ids ?? targetIds();
  const ids = given.ids ?? targetsOf(macro, own);
  const chosen = given.chosen ?? own.length;
  const described = given.ids === undefined ? targetDescription() : (given.described ?? null);
  if (ids.length === 0) return notify("Nothing to act on: this message is decided already.");
  const answers = given.answers ?? {};
  // What was agreed to is what is done, unless the mailbox has changed meanwhile.
  const seen = given.agreed?.version === view().version ? given.agreed : null;
  const at = seen?.at ?? new Date();
  const planned: Planned = seen ? { ok: true, plan: seen.plan } : planNow(macro, ids, answers, at);
  if (!planned.ok) {
    set({ dialog: null });
    return notify(`${macro.name} cannot run. ${planned.problems.map(textOfProblem).join(" ")}`, "trouble");
  }
  const { plan } = planned;
  if (plan.asks.length > 0)
    return set({ dialog: { kind: "ask", macro, ids, described, questions: plan.asks, answers, chosen } });
  const touched = new Set([
    ...plan.change.messages.keys(),
    ...plan.things.map((thing) => thing.source),
    ...plan.unknown,
  ]).size;
  if (
    !given.agreed &&
    mustConfirm(macro.settings, touched, abilitiesOf(macro, view().macros).confirms, ids.length - chosen)
  )
    return set({
      dialog: { kind: "confirm", macro, ids, described, answers, chosen, seen: { plan, at, version: view().version } },
    });
  // Number 0 is no macro of the person's: there is nothing to run again by name.
  const stored = macro.id > 0 ? { lastMacro: macro.id } : {};
  set({ selection: NONE, selected: 0, anchor: null, dialog: null, ...stored });
  const { name, steps, settings } = macro;
  const id = runId(crypto.randomUUID());
  const { recording } = view();
  if (recording) set({ recording: [...recording, { id, steps, answers }] });
  decideRun(
    {
      kind: "run",
      id,
      at: at.toISOString(),
      macro: { ...(macro.id > 0 ? { id: macro.id } : {}), name, steps, settings },
      ids,
      described,
      answers,
    },
    plan.change,
  );
  refocus(macro);
  notify(doneText(macro, plan));
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
