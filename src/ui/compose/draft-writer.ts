import type { DraftPatch, DraftShape } from "@/core/api";
import type { Doc } from "@/core/letter";
import { Refused } from "../state/api";
import type { Fields, Letter } from "../state/letters";

export type Saved = "saved" | "saving" | "unsaved" | "failed";

export interface WriterHost {
  readonly patch: (draft: number, body: DraftPatch) => Promise<Pick<DraftShape, "version">>;
  /** What the editor holds; null before it is there. */
  readonly doc: () => Doc | null;
  readonly said: (saved: Saved, problem: string | null) => void;
  /** Another window has changed the draft since. */
  readonly elsewhere: () => void;
  /** The server cannot have it now: what was written is to be kept here. */
  readonly keep: (rest: Rest) => void;
  /** The server has all of it. */
  readonly kept: () => void;
}

/** What the server does not have of a letter, and where it belongs. */
export type Rest = Pick<Letter, "draft" | "version" | "fields" | "body">;

/** A pause in typing after which a draft is stored: with the way to the server, two seconds are lost at the most. */
export const PAUSE_MS = 900;

/**
 * Stores a draft as it is being written: one write after the other, what failed once more with what comes after it,
 * and nothing any more once another window has changed it.
 */
export class DraftWriter {
  private draft: number | null = null;
  private version = 0;
  private fields: Partial<Fields> = {};
  private isTextNew = false;
  private isElsewhere = false;
  private isOver = false;
  private line: Promise<unknown> = Promise.resolve();
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly host: WriterHost) {}

  /** The draft is there: what was written before goes to it. @returns the fields written before */
  begin(draft: number, version: number): Partial<Fields> {
    this.draft = draft;
    this.version = version;
    this.isElsewhere = false;
    if (this.isTextNew || Object.keys(this.fields).length > 0) this.later();
    return this.fields;
  }

  /** What was written in a window before this one. */
  resume({ draft, version, fields, body }: Rest): void {
    this.draft = draft;
    this.version = version;
    this.fields = fields;
    this.isTextNew = body !== null;
    this.later();
  }

  /** @param doc what the editor holds */
  rest(doc: Doc | null = this.host.doc()): Rest {
    const { draft, version, fields, isTextNew } = this;
    return { draft, version, fields, body: isTextNew ? doc : null };
  }

  /** Nobody goes on writing here. @returns what is to be stored yet, once nothing is on its way any more */
  async handOver(): Promise<Rest> {
    clearTimeout(this.timer);
    this.isOver = true;
    const doc = this.host.doc();
    await this.line;
    return this.rest(doc);
  }

  /** What was written here and not stored is dropped. */
  forget(): void {
    clearTimeout(this.timer);
    this.fields = {};
    this.isTextNew = false;
  }

  put(fields: Partial<Fields>): void {
    this.fields = { ...this.fields, ...fields };
    this.later();
  }

  typed(): void {
    this.isTextNew = true;
    this.later();
  }

  /** Nobody writes any more: what is on its way still arrives. */
  end(): void {
    clearTimeout(this.timer);
  }

  private later(pauseMs = PAUSE_MS): void {
    if (this.isElsewhere || this.isOver) return;
    clearTimeout(this.timer);
    if (this.version === 0) {
      this.timer = setTimeout(() => this.host.keep(this.rest()), pauseMs);
      return;
    }
    this.host.said("unsaved", null);
    this.timer = setTimeout(() => void this.save().catch(() => undefined), pauseMs);
  }

  /** Stores what is not stored yet. @returns the version that is stored */
  save(): Promise<number> {
    clearTimeout(this.timer);
    const once = () => this.write();
    const mine = this.line.then(once, once);
    this.line = mine.catch(() => undefined);
    return mine;
  }

  private async write(): Promise<number> {
    const { draft, version, fields, isTextNew, host } = this;
    // What was left is stored by whoever it was handed to.
    if (this.isOver) return version;
    if (draft === null || version === 0) throw new Error("The draft is not there yet. Try again in a moment.");
    if (this.isElsewhere) throw new Error("Another window has changed this draft: choose which of the two is meant.");
    if (!isTextNew && Object.keys(fields).length === 0) return version;
    const body = isTextNew ? host.doc() : null;
    this.fields = {};
    this.isTextNew = false;
    host.said("saving", null);
    try {
      const answer = await host.patch(draft, {
        version,
        ...fields,
        ...(body ? { body } : {}),
      });
      this.version = answer.version;
      const more = this.isTextNew || Object.keys(this.fields).length > 0;
      host.said(more ? "unsaved" : "saved", null);
      if (!more) host.kept();
      return answer.version;
    } catch (error) {
      this.fields = { ...fields, ...this.fields };
      this.isTextNew ||= isTextNew;
      if (error instanceof Refused && error.problem.type.endsWith("changed-elsewhere")) {
        this.isElsewhere = true;
        host.said("failed", null);
        host.elsewhere();
      } else {
        host.keep(this.rest());
        this.later(2 * PAUSE_MS);
        host.said("failed", error instanceof Error ? error.message : "It could not be stored.");
      }
      throw error;
    }
  }
}
