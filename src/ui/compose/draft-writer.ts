import type { DraftPatch, DraftShape } from "@/core/api";
import type { Doc } from "@/core/letter";
import { Refused } from "../state/api";

/** What of a letter stands in fields; the text is the editor's. */
export type Fields = Pick<
  DraftShape,
  "sender" | "to" | "cc" | "bcc" | "subject" | "plain" | "sendAt" | "sent" | "sentToo"
>;

export type Saved = "saved" | "saving" | "unsaved" | "failed";

export interface WriterHost {
  readonly patch: (draft: number, body: DraftPatch) => Promise<Pick<DraftShape, "version">>;
  /** What the editor holds; null before it is there. */
  readonly doc: () => Doc | null;
  readonly said: (saved: Saved, problem: string | null) => void;
  /** Another window has changed the draft since. */
  readonly elsewhere: () => void;
}

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
    if (this.version === 0 || this.isElsewhere) return;
    this.host.said("unsaved", null);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.save(false).catch(() => undefined), pauseMs);
  }

  /**
   * Stores what is not stored yet.
   * @param left nobody goes on writing: the source is made
   * @returns the version that is stored
   */
  save(left: boolean): Promise<number> {
    clearTimeout(this.timer);
    const once = () => this.write(left);
    const mine = this.line.then(once, once);
    this.line = mine.catch(() => undefined);
    return mine;
  }

  private async write(left: boolean): Promise<number> {
    const { draft, version, fields, isTextNew, host } = this;
    if (draft === null || version === 0) throw new Error("The draft is not there yet. Try again in a moment.");
    if (this.isElsewhere) throw new Error("Another window has changed this draft: choose which of the two is meant.");
    if (!left && !isTextNew && Object.keys(fields).length === 0) return version;
    const body = isTextNew ? host.doc() : null;
    this.fields = {};
    this.isTextNew = false;
    host.said("saving", null);
    try {
      const answer = await host.patch(draft, {
        version,
        ...fields,
        ...(body ? { body } : {}),
        ...(left ? { left } : {}),
      });
      this.version = answer.version;
      const more = this.isTextNew || Object.keys(this.fields).length > 0;
      host.said(more ? "unsaved" : "saved", null);
      return answer.version;
    } catch (error) {
      this.fields = { ...fields, ...this.fields };
      this.isTextNew ||= isTextNew;
      if (error instanceof Refused && error.problem.type.endsWith("changed-elsewhere")) {
        this.isElsewhere = true;
        host.said("failed", null);
        host.elsewhere();
      } else {
        this.later(2 * PAUSE_MS);
        host.said("failed", error instanceof Error ? error.message : "It could not be stored.");
      }
      throw error;
    }
  }
}
