import type { ProblemShape, RunAnswer, UndoAnswer } from "@/core/api";
import { Away, Refused } from "./api";
import type { Decision } from "./decision";

export type Answer = RunAnswer | UndoAnswer;

/** A decision that could not be done, for the person to look at: it is tried again, or thrown away. */
export interface SetAside {
  readonly decision: Decision;
  readonly why: string;
}

/** What is kept in the browser: a window that was closed hands it to the next one. */
export interface Kept {
  readonly waiting: readonly Decision[];
  readonly aside: readonly SetAside[];
}

/** What the queue works with; in the app the server and the browser's store. */
export interface QueueHost {
  /** @throws Away when nobody answers, Refused when the server says no, anything else when it fails */
  readonly send: (decision: Decision) => Promise<Answer>;
  /** Whether the server answers at all. */
  readonly isWell: () => Promise<boolean>;
  readonly keep: (kept: Kept) => Promise<void>;
  readonly pause: (ms: number) => Promise<void>;
}

/** What became of decisions, beyond what the events tell. A handler that throws stops nothing. */
export interface QueueEvents {
  readonly answered: (decision: Decision, answer: Answer) => void;
  /**
   * The decision is not done, nor those that would have taken it back.
   * @returns whether it is set aside; false where there is nothing to try again
   */
  readonly undone: (decisions: readonly Decision[], why: string, problem: ProblemShape | null) => boolean;
  readonly link: (link: "here" | "away", why: string | null) => void;
  readonly aside: (aside: readonly SetAside[]) => void;
  /** Decisions cannot be kept in this browser: until they are sent, they are in this window only. */
  readonly unkept: (isKept: boolean) => void;
}

/** Waits between tries while the server is away. */
const RETRY_MS = [300, 600, 1000, 2000, 3000];
/** A decision on which the server fails so often, while it is well otherwise, is set aside. */
const MOST_FAILURES = 3;

type Outcome =
  | { readonly is: "done"; readonly answer: Answer }
  | { readonly is: "away"; readonly why: string | null }
  | { readonly is: "failed"; readonly why: string }
  | { readonly is: "refused"; readonly problem: ProblemShape };

/**
 * Sends decisions to the server one after another, for as long as it takes. One that cannot be done is set
 * aside with its reason, and the next one goes on.
 */
export class SendQueue {
  private waiting: Decision[] = [];
  private aside: SetAside[] = [];
  private sending = false;
  private tries = 0;
  private failures = 0;
  private isKept = true;

  constructor(
    private readonly host: QueueHost,
    private readonly events: QueueEvents,
  ) {}

  add(...decisions: readonly Decision[]): void {
    this.waiting.push(...decisions);
    void this.keep();
    void this.run();
  }

  /** Takes over what another window kept. @returns when it is kept here */
  takeOver({ aside }: Pick<Kept, "aside">): Promise<void> {
    if (aside.length === 0) return this.keep();
    this.setAside([...this.aside, ...aside]);
    return this.keep();
  }

  /** Takes a decision off the list of those set aside. @returns it, or null where it is not there */
  recall(id: string): Decision | null {
    const found = this.aside.find(({ decision }) => decision.id === id);
    if (!found) return null;
    this.setAside(this.aside.filter((entry) => entry !== found));
    void this.keep();
    return found.decision;
  }

  private setAside(aside: readonly SetAside[]): void {
    this.aside = [...aside];
    this.tell(() => this.events.aside(this.aside));
  }

  /** Handlers show what happened; what goes wrong in them must not lose a decision. */
  private tell(work: () => void): void {
    try {
      work();
    } catch (error) {
      console.error(error);
    }
  }

  private async keep(): Promise<void> {
    let isKept = true;
    try {
      await this.host.keep({ waiting: this.waiting, aside: this.aside });
    } catch {
      isKept = false;
    }
    if (isKept === this.isKept) return;
    this.isKept = isKept;
    this.tell(() => this.events.unkept(isKept));
  }

  private async run(): Promise<void> {
    if (this.sending) return;
    this.sending = true;
    while (this.waiting[0]) await this.next(this.waiting[0]);
    this.sending = false;
  }

  private async attempt(decision: Decision): Promise<Outcome> {
    try {
      return { is: "done", answer: await this.host.send(decision) };
    } catch (error) {
      if (error instanceof Refused) return { is: "refused", problem: error.problem };
      if (error instanceof Away) return { is: "away", why: error.why };
      if (!(await this.host.isWell())) return { is: "away", why: null };
      return { is: "failed", why: error instanceof Error ? error.message : "The server failed." };
    }
  }

  private async next(decision: Decision): Promise<void> {
    const outcome = await this.attempt(decision);
    if (outcome.is === "away" || (outcome.is === "failed" && ++this.failures < MOST_FAILURES)) {
      this.tell(() => (outcome.is === "away" ? this.events.link("away", outcome.why) : this.events.link("here", null)));
      return this.host.pause(RETRY_MS[Math.min(this.tries++, RETRY_MS.length - 1)]!);
    }
    this.tries = 0;
    this.failures = 0;
    this.tell(() => this.events.link("here", null));
    if (outcome.is === "done") {
      this.waiting = this.waiting.filter((other) => other !== decision);
      this.tell(() => this.events.answered(decision, outcome.answer));
    } else this.giveUp(decision, outcome);
    await this.keep();
  }

  private giveUp(decision: Decision, outcome: Extract<Outcome, { is: "failed" | "refused" }>): void {
    // What was to take it back has nothing to take back.
    const over = this.waiting.filter(
      (other) => other === decision || (other.kind !== "run" && other.of === decision.id),
    );
    this.waiting = this.waiting.filter((other) => !over.includes(other));
    const problem = outcome.is === "refused" ? outcome.problem : null;
    const why = outcome.is === "refused" ? outcome.problem.detail : outcome.why;
    let keeps = over.length === 1;
    this.tell(() => (keeps = this.events.undone(over, why, problem) && keeps));
    if (keeps) this.setAside([...this.aside, { decision, why }]);
  }
}
