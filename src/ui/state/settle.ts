import { EMPTY, invert, reconcile, type MessageEdit, type Change } from "@/core/change";
import { messageId, type MessageId, type RunId } from "@/core/id";
import { needsOf, plan, readSeen, type PlanContext, type Planned } from "@/core/macro";
import type { Decision, OnItsWay } from "./decision";
import type { Mailbox } from "./mailbox";

type RunDecision = Extract<Decision, { kind: "run" }>;

/** Plans a run on what the view holds. */
export function planIn(
  mailbox: Mailbox,
  { macro, ids, answers, guesses = [] }: Pick<RunDecision, "macro" | "ids" | "answers" | "guesses">,
  context: PlanContext,
): Planned {
  const plannable = { ...macro, name: macro.id === undefined ? undefined : macro.name };
  const needs = needsOf(plannable, context);
  const messages = ids.flatMap((raw) => {
    const id = messageId(raw);
    const state = mailbox.state(id);
    if (!state) return [];
    return [needs.facts ? { id, state, facts: mailbox.facts(id)! } : { id, state }];
  });
  if (!needs.guess) return plan(plannable, messages, answers, context);
  const seen = readSeen(guesses);
  // What was not seen only the server knows.
  return plan(plannable, messages, answers, { ...context, guess: (id) => seen.get(id) ?? null });
}

type Pending = { -readonly [K in keyof OnItsWay]: OnItsWay[K] } & {
  /** The write that the server has it as, once it has said so. */
  seq?: number;
};

/** How many past changes are kept, so that undoing a recent run shows at once. */
const KEPT_CHANGES = 60;

/**
 * Keeps the view right: decisions are applied to it at once, and when the server says what it wrote, what
 * was guessed makes way for it. Decisions still on their way are planned again on top of the truth.
 */
export class Settler {
  private pending: Pending[] = [];
  private readonly known = new Map<RunId, Change>();
  /** The truth under the decisions holds what the server wrote up to this. */
  private through = 0;

  constructor(
    private readonly mailbox: Mailbox,
    private readonly context: () => Omit<PlanContext, "now">,
  ) {}

  /** Decisions on their way, in the order they were made, each with what it did to the view. */
  get onItsWay(): readonly OnItsWay[] {
    return this.pending;
  }

  private changeFor(decision: Decision): Change {
    const { mailbox } = this;
    if (decision.kind !== "run") {
      const past = this.known.get(decision.of);
      const back = !past ? EMPTY : decision.kind === "undo" ? invert(past) : past;
      return reconcile(back, mailbox).ready;
    }
    const planned = planIn(mailbox, decision, { ...this.context(), now: new Date(decision.at) });
    return planned.ok ? planned.plan.change : EMPTY;
  }

  /**
   * Makes a decision in the view.
   * @param planned what it does there, where that has just been planned
   * @returns what it did
   */
  decide(decision: Decision, planned?: Change): Change {
    const change = planned ?? this.changeFor(decision);
    this.mailbox.apply(change);
    this.pending.push({ decision, change });
    if (decision.kind === "run") this.remember(decision.id, change);
    return change;
  }

  private remember(id: RunId, change: Change): void {
    this.known.delete(id);
    this.known.set(id, change);
    for (const oldest of this.known.keys()) {
      if (this.known.size <= KEPT_CHANGES) break;
      this.known.delete(oldest);
    }
  }

  private takeOff(): void {
    for (const { change } of [...this.pending].reverse()) this.mailbox.apply(invert(change));
  }

  private putBack(touched: Set<MessageId>): void {
    for (const entry of this.pending) {
      for (const id of entry.change.messages.keys()) touched.add(id);
      entry.change = this.changeFor(entry.decision);
      this.mailbox.apply(entry.change);
      if (entry.decision.kind === "run") this.remember(entry.decision.id, entry.change);
      for (const id of entry.change.messages.keys()) touched.add(id);
    }
  }

  /**
   * What the server wrote, ours or another window's.
   * @returns the messages whose rows may look different now
   */
  arrive(id: RunId, kind: "run" | "undo" | "redo", change: Change): Set<MessageId> {
    const first = this.pending[0];
    if (kind === "run") this.remember(id, change);
    if (first?.decision.id === id && same(first.change, change)) {
      this.pending.shift();
      return new Set();
    }
    const touched = new Set<MessageId>(change.messages.keys());
    this.takeOff();
    for (const entry of this.pending)
      if (entry.decision.id === id) for (const m of entry.change.messages.keys()) touched.add(m);
    this.pending = this.pending.filter((entry) => entry.decision.id !== id);
    this.mailbox.apply(change);
    this.putBack(touched);
    return touched;
  }

  /** A decision the server refused: the view goes back to what it was without it. */
  refuse(id: RunId): Set<MessageId> {
    return this.drop(({ decision }) => decision.id === id) ?? new Set();
  }

  /**
   * The server has a decision. Mostly its news follows; where the truth was read anew after it was written, none does.
   * @returns the messages whose rows may look different now; null where the decision is still on its way
   */
  written(id: RunId, seq: number): Set<MessageId> | null {
    for (const entry of this.pending) if (entry.decision.id === id) entry.seq = seq;
    return this.dropHeld();
  }

  /** The truth holds all that was written up to that. @returns as `written` */
  holds(through: number): Set<MessageId> | null {
    this.through = Math.max(this.through, through);
    return this.dropHeld();
  }

  private dropHeld = (): Set<MessageId> | null => this.drop(({ seq }) => seq !== undefined && seq <= this.through);

  private drop(isOver: (entry: Pending) => boolean): Set<MessageId> | null {
    const over = this.pending.filter(isOver);
    if (over.length === 0) return null;
    const touched = new Set<MessageId>();
    this.takeOff();
    for (const { decision, change } of over) {
      for (const id of change.messages.keys()) touched.add(id);
      this.known.delete(decision.id);
    }
    this.pending = this.pending.filter((entry) => !over.includes(entry));
    this.putBack(touched);
    return touched;
  }

  /** Rows read anew hold the truth only: what is on its way is put on top again. */
  mergeTruth(merge: () => void): Set<MessageId> {
    const touched = new Set<MessageId>();
    this.takeOff();
    merge();
    this.putBack(touched);
    return touched;
  }
}

/** Whether two changes do the same to messages. Edits are shared between them: each pair of lists is compared once. */
function same({ messages: a }: Change, { messages: b }: Change): boolean {
  if (a.size !== b.size) return false;
  const equal = new Map<readonly MessageEdit[], readonly MessageEdit[]>();
  for (const [id, edits] of a) {
    const others = b.get(id);
    if (!others) return false;
    if (equal.get(edits) === others) continue;
    const sorted = (list: readonly MessageEdit[]) => list.map((edit) => JSON.stringify(edit)).sort();
    if (sorted(edits).join() !== sorted(others).join()) return false;
    equal.set(edits, others);
  }
  return true;
}
