/** What became of the mail of a list or sender, of late. */
export interface Fate {
  /** Messages that were there long enough to be read. */
  readonly ripe: number;
  /** Of these: how many were read, and how many went to the trash without. */
  readonly read: number;
  readonly trashedUnread: number;
  /** Whether the person has ever written to them. */
  readonly writtenTo: boolean;
}

/** So many say that it is no accident. */
const ENOUGH = 8;
/** Of so many, one may have been opened by mistake. */
const PER_MISTAKE = 50;
const MOSTLY = 0.9;

/**
 * Whether mail is offered a place of its own, aside, and why: it is never read, or always thrown away unread. Never
 * for people one has written to.
 * @returns the evidence in words; null for no offer
 */
export function asideOffer({ ripe, read, trashedUnread, writtenTo }: Fate): string | null {
  if (writtenTo || ripe < ENOUGH || read > Math.floor(ripe / PER_MISTAKE)) return null;
  if (trashedUnread >= ripe * MOSTLY) return `${trashedUnread} of ${ripe} trashed unread`;
  return read === 0 ? `none of ${ripe} read` : `${read} of ${ripe} read`;
}
