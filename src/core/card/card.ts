/** Somebody as a card file tells of them (vCard 3: RFC 2426, vCard 4: RFC 6350). */
export interface Card {
  /** "" where the card knows none. */
  readonly name: string;
  /** Whom to write to; the one the card prefers comes first, and there is at least one. */
  readonly addresses: readonly string[];
  readonly note: string;
}

/** People who are written to together. */
export interface CardGroup {
  readonly name: string;
  readonly members: readonly string[];
}

/** A content line: name in upper case, parameters by name in upper case, and the value as it is written. */
export interface Line {
  readonly name: string;
  readonly params: ReadonlyMap<string, readonly string[]>;
  readonly value: string;
}
