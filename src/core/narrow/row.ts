/** Facts about a message that never change, as bits. */
export const TRAIT = {
  attachment: 1,
  invite: 2,
  listmail: 4,
  automatic: 8,
  bounce: 16,
  answered: 32,
  mine: 64,
  // What does not fit, as core/deceit sees it when a message comes in.
  falselink: 128,
  lookalike: 256,
  falsename: 512,
  otherreply: 1024,
  failedcheck: 2048,
  oddfile: 4096,
} as const;

/** Any of those that make a message suspect. */
export const SUSPECT =
  TRAIT.falselink | TRAIT.lookalike | TRAIT.falsename | TRAIT.otherreply | TRAIT.failedcheck | TRAIT.oddfile;

/** States a narrowing asks for that are traits: a message is so with any of these bits. */
export const STATE_TRAITS = {
  answered: TRAIT.answered,
  attachment: TRAIT.attachment,
  invite: TRAIT.invite,
  listmail: TRAIT.listmail,
  mine: TRAIT.mine,
  suspect: SUSPECT,
  falselink: TRAIT.falselink,
  lookalike: TRAIT.lookalike,
  falsename: TRAIT.falsename,
  otherreply: TRAIT.otherreply,
  failedcheck: TRAIT.failedcheck,
  oddfile: TRAIT.oddfile,
} as const;
export type TraitState = keyof typeof STATE_TRAITS;
export const isTraitState = (state: string): state is TraitState => Object.hasOwn(STATE_TRAITS, state);

/**
 * Folded texts of a message that can be searched. "to" holds everybody it was sent or copied to, "cc" those it
 * was copied to, "via" the person's own addresses it came to, "file" the names of what is attached.
 */
export type TextField = "from" | "to" | "cc" | "via" | "subject" | "file" | "list" | "note";

/** What a narrowing asks of a message: one interface over columns, plain objects and anything else. */
export interface NarrowRow {
  readonly folder: number;
  /** The account it came through; 0 for none. */
  readonly account: number;
  readonly read: boolean;
  readonly pin: boolean;
  readonly flagged: boolean;
  readonly owed: boolean;
  readonly awaited: boolean;
  readonly deferred: boolean;
  /** Back from being deferred. */
  readonly returned: boolean;
  /** When it comes back, milliseconds since 1970; NaN when it is not deferred. */
  readonly deferMs: number;
  /** Due time of the flag, milliseconds since 1970; NaN when there is none. */
  readonly dueMs: number;
  /** 0 for none. */
  readonly marker: number;
  readonly dateMs: number;
  /** Bytes. */
  readonly size: number;
  /** Bits of TRAIT. */
  readonly traits: number;
  hasLabel(label: number): boolean;
  text(field: TextField): string;
  /** The folded words of the message itself; " " where they are not known. */
  body(): string;
  /** When the open tasks made from it are due, milliseconds since 1970, NaN for one without a date. */
  tasks(): readonly number[];
}
