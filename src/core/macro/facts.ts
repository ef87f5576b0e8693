import type { MessageState } from "../change";
import { fold, type NarrowRow, type TextField } from "../narrow";

/** What a message says about itself and no macro changes. */
export interface Facts {
  readonly fromName: string;
  readonly fromAddress: string;
  readonly subject: string;
  readonly list: string;
  /** The account it came through; 0 for none. */
  readonly account: number;
  readonly dateMs: number;
  /** Bytes. */
  readonly size: number;
  /** Bits of TRAIT in core/narrow. */
  readonly traits: number;
  /** A folded text, as narrowings search it. */
  text(field: Exclude<TextField, "note">): string;
  /** The words of the message; null where only the server has them. */
  readonly body: string | null;
  /** When the open tasks made from it are due, milliseconds since 1970; null where only the server knows of them. */
  readonly tasks: readonly number[] | null;
}

export type Draft = { -readonly [K in keyof MessageState]: MessageState[K] };

/**
 * A message in the middle of a macro, as a condition sees it: what the steps so far have made of it, and what
 * it says about itself.
 */
export class DraftRow implements NarrowRow {
  draft!: Draft;
  facts!: Facts;

  get folder() {
    return this.draft.folder;
  }
  get read() {
    return this.draft.read;
  }
  get pin() {
    return this.draft.pin;
  }
  get flagged() {
    return this.draft.flag !== null;
  }
  get owed() {
    return this.draft.owed;
  }
  get awaited() {
    return this.draft.await !== null;
  }
  get deferred() {
    return this.draft.defer !== null;
  }
  get returned() {
    return this.draft.back !== null;
  }
  get deferMs() {
    return this.draft.defer === null ? NaN : Date.parse(this.draft.defer);
  }
  get dueMs() {
    return this.draft.flag?.due ? Date.parse(this.draft.flag.due) : NaN;
  }
  get marker() {
    return this.draft.marker ?? 0;
  }
  get account() {
    return this.facts.account;
  }
  get dateMs() {
    return this.facts.dateMs;
  }
  get size() {
    return this.facts.size;
  }
  get traits() {
    return this.facts.traits;
  }
  hasLabel(label: number): boolean {
    return (this.draft.labels as readonly number[]).includes(label);
  }
  text(field: TextField): string {
    return field === "note" ? fold(this.draft.note ?? "") : this.facts.text(field);
  }
  body(): string {
    return fold(this.facts.body ?? "");
  }
  tasks(): readonly number[] {
    return this.facts.tasks ?? [];
  }
}
