import type { DraftPatch, DraftShape, ProblemShape, RunAnswer } from "@/core/api";
import { docAbove, type Doc, type LetterKind } from "@/core/letter";
import { Away, Refused } from "./api";

/** What of a letter stands in fields; the text is the editor's. */
export type Fields = Pick<
  DraftShape,
  "sender" | "to" | "cc" | "bcc" | "subject" | "plain" | "sendAt" | "sent" | "sentToo"
>;

/** A letter of which the server does not have all yet. All of it can be stored, so it outlives the window. */
export interface Letter {
  /** Names its beginning, so that a repeat begins no second one: a UUID. */
  readonly key: string;
  readonly kind: LetterKind;
  /** The message it answers. */
  readonly answers: number | null;
  /** Names the draft it becomes where another window has changed its own: a UUID. */
  readonly beside: string;
  /** The run that begins it; null where it is begun by itself. */
  readonly run: string | null;
  /** null while the server has not begun it; then the version it was read at, 0 where it was not yet. */
  readonly draft: number | null;
  readonly version: number;
  /** What the server does not have. */
  readonly fields: Partial<Fields>;
  /** The text; null where the server has it. Of a letter not begun it is what stands above what the server puts there. */
  readonly body: Doc | null;
  /** The sending it waits for; null for one that is only to be stored. */
  readonly sending: { readonly id: string; readonly afterwards: number | null } | null;
}

/** What the queue works with; in the app the server and the browser's store. Each throws as the api does. */
export interface LettersHost {
  readonly begin: (body: object) => Promise<DraftShape>;
  readonly read: (draft: number) => Promise<DraftShape>;
  readonly patch: (draft: number, body: DraftPatch) => Promise<Pick<DraftShape, "version">>;
  readonly send: (draft: number, body: object) => Promise<RunAnswer>;
  /** Whether a run is still on its way to the server. */
  readonly isRunWaiting: (run: string) => boolean;
  readonly keep: (letters: readonly Letter[]) => Promise<void>;
  readonly pause: (ms: number) => Promise<void>;
}

export interface LettersEvents {
  readonly stored: (letter: Letter) => void;
  readonly sent: (letter: Letter, answer: RunAnswer) => void;
  /** It was changed elsewhere: what was written here became a draft of its own. */
  readonly beside: (letter: Letter) => void;
  /** It cannot be sent, or stored; what of it the server has is in that draft. */
  readonly refused: (letter: Letter, why: string) => void;
  readonly waiting: (count: number) => void;
}

const RETRY_MS = 1500;
/** A letter on which the server fails so often is left for the next visit. */
const MOST_FAILURES = 3;

const isElsewhere = (problem: ProblemShape): boolean => problem.type.endsWith("changed-elsewhere");

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** Stores and sends letters that were left or sent, one after another, for as long as it takes, each once. */
export class LetterQueue {
  private waiting: Letter[] = [];
  /** Those still being written here: kept, and left alone. */
  private readonly open = new Map<string, Letter>();
  /** Runs whose draft was taken for what was written here. */
  private readonly taken = new Set<string>();
  private running: Promise<void> | null = null;
  private attempt: Promise<unknown> = Promise.resolve();
  private failures = 0;

  constructor(
    private readonly host: LettersHost,
    private readonly events: LettersEvents,
  ) {}

  /** What is said to wait is what a window that is closed now would not lose. */
  private async keep(): Promise<void> {
    await this.host.keep([...this.waiting, ...this.open.values()]).catch(() => undefined);
    this.events.waiting(this.waiting.length);
  }

  /** Keeps a letter that is being written while the server cannot have it. */
  keepOpen(letter: Letter): void {
    this.open.set(letter.key, letter);
    void this.keep();
  }

  /** The server has it, or nobody wants it. */
  drop(key: string): void {
    if (this.open.delete(key)) void this.keep();
  }

  /** Nobody writes it any more: it is stored, and sent if that is meant. @returns when it outlives the window */
  add(...letters: readonly Letter[]): Promise<void> {
    for (const letter of letters) this.open.delete(letter.key);
    this.waiting.push(...letters);
    const kept = this.keep();
    this.running ??= this.run().finally(() => (this.running = null));
    return kept;
  }

  /** Whether a letter here is, or was, what a run has begun a draft for. */
  isFor(run: string): boolean {
    return this.taken.has(run) || [...this.waiting, ...this.open.values()].some((letter) => letter.run === run);
  }

  has = (key: string): boolean => this.open.has(key) || this.waiting.some((letter) => letter.key === key);

  /** Whether some letter is to be sent yet. */
  get isSending(): boolean {
    return this.waiting.some(({ sending }) => sending !== null);
  }

  /** Takes back the last letter that is to be sent and is not yet. @returns null where the server has them all */
  async recall(): Promise<Letter | null> {
    await this.attempt;
    const last = this.waiting.findLast(({ sending }) => sending !== null) ?? null;
    if (last) this.end(last);
    return last;
  }

  private async run(): Promise<void> {
    while (this.waiting[0]) {
      const [letter] = this.waiting;
      const outcome = this.deliver(letter);
      this.attempt = outcome;
      if (!(await outcome)) await this.host.pause(RETRY_MS);
    }
  }

  /** @returns whether it is over, in whatever way */
  private async deliver(letter: Letter): Promise<boolean> {
    try {
      await this.hand(letter);
      this.failures = 0;
    } catch (error) {
      const isAway = error instanceof Away || (letter.run !== null && this.host.isRunWaiting(letter.run));
      if (isAway || (!(error instanceof Refused) && ++this.failures < MOST_FAILURES)) return false;
      this.failures = 0;
      this.end(letter);
      this.events.refused(this.current(letter), error instanceof Error ? error.message : "The server failed.");
    }
    return true;
  }

  private end(letter: Letter): void {
    this.waiting = this.waiting.filter(({ key }) => key !== letter.key);
    void this.keep();
  }

  /** The letter as it is now: delivering it goes step by step. */
  private current = (letter: Letter): Letter => this.waiting.find(({ key }) => key === letter.key) ?? letter;

  private note(letter: Letter, change: Partial<Letter>): Letter {
    const next = { ...letter, ...change };
    this.waiting = this.waiting.map((one) => (one.key === letter.key ? next : one));
    void this.keep();
    return next;
  }

  private async hand(first: Letter): Promise<void> {
    let letter = first;
    if (letter.draft === null) letter = await this.beginning(letter);
    else if (letter.version === 0) letter = await this.reading(letter, letter.draft);
    letter = await this.storing(letter);
    const { sending, draft, version } = letter;
    if (sending === null) {
      this.end(letter);
      return this.events.stored(letter);
    }
    const answer = await this.host.send(draft!, { id: sending.id, version, afterwards: sending.afterwards });
    this.end(letter);
    this.events.sent(letter, answer);
  }

  private async beginning(letter: Letter): Promise<Letter> {
    const { run, key, kind, answers, body } = letter;
    if (run !== null && this.host.isRunWaiting(run)) throw new Away("Its macro has not been run yet.");
    // The server knows which draft the run has begun, whether or not its answer has come here.
    const read = await this.host
      .begin({ id: key, kind, answers, ...(run === null ? {} : { run }) })
      .catch((error: unknown) => {
        // The message may be gone; what is written to it is not.
        if (error instanceof Refused) return this.host.begin({ id: key, kind: "new" });
        throw error;
      });
    if (run !== null) this.taken.add(run);
    const above = body === null ? null : docAbove(body, read.body);
    return this.note(letter, { draft: read.id, version: read.version, body: above });
  }

  /** Its draft is there, and was not read yet when it was sent: what was typed stands above what is in it. */
  private async reading(letter: Letter, draft: number): Promise<Letter> {
    const { version, body } = await this.host.read(draft);
    return this.note(letter, { version, body: letter.body === null ? null : docAbove(letter.body, body) });
  }

  private async storing(letter: Letter): Promise<Letter> {
    const { draft, version, fields, body, sending } = letter;
    const left = sending === null;
    if (!left && body === null && Object.keys(fields).length === 0) return letter;
    const content = { ...fields, ...(body ? { body } : {}) };
    try {
      const stored = await this.host.patch(draft!, { version, ...content, ...(left ? { left } : {}) });
      return this.note(letter, { version: stored.version, fields: {}, body: null });
    } catch (error) {
      if (!(error instanceof Refused) || !isElsewhere(error.problem)) throw error;
      const now = await this.host.read(draft!);
      // The answer to a try before this one was lost on its way.
      const has = Object.entries(content).every(([name, value]) => same(now[name as keyof DraftShape], value));
      if (has) return this.note(letter, { version: now.version, fields: {}, body: null });
      return this.putBeside(letter, now);
    }
  }

  /** Neither is lost: what another window wrote stays, what was written here is a draft of its own, not sent. */
  private async putBeside(letter: Letter, now: DraftShape): Promise<Letter> {
    const { to, cc, bcc, subject, body } = { ...now, ...letter.fields, body: letter.body ?? now.body };
    const own = await this.host.begin({ id: letter.beside, kind: "new", to, cc, bcc, subject, body });
    this.events.beside(letter);
    return this.note(letter, { draft: own.id, version: own.version, fields: {}, body: null, sending: null });
  }
}
