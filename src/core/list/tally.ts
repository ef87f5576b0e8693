import { STATE_BIT, type Columns } from "../columns";

export interface Count {
  total: number;
  unread: number;
  /** How many are older than a week. */
  old: number;
  /** The date of the oldest, in milliseconds since 1970; NaN where there is none. */
  oldestMs: number;
}

export const WEEK_MS = 7 * 86_400_000;

const none = (): Count => ({ total: 0, unread: 0, old: 0, oldestMs: NaN });

export interface Tallied {
  /** By folder id. What is deferred is not counted in the inbox, but under 0. */
  readonly folders: ReadonlyMap<number, Count>;
  /** What lies in the inbox, by the account it came through; 0 for none there is. */
  readonly accounts: ReadonlyMap<number, Count>;
  /** What carries any marker. */
  readonly marked: Count;
  /** What an answer is awaited to, and what one is owed to. */
  readonly awaited: Count;
  readonly owed: Count;
  readonly labels: ReadonlyMap<number, Count>;
  readonly markers: ReadonlyMap<number, Count>;
  /** By the number of the batch. */
  readonly batches: ReadonlyMap<number, Count>;
}

/**
 * Counts everything that is shown with a count, in one walk over the rows. The walk can be made in pieces, so
 * that a mailbox of a million is counted between frames.
 */
export class Tally {
  private row = 0;
  private readonly folders = new Map<number, Count>();
  private readonly accounts = new Map<number, Count>();
  private readonly labels = new Map<number, Count>();
  private readonly markers = new Map<number, Count>();
  private readonly marked = none();
  private readonly awaited = none();
  private readonly owed = none();
  /** For each set of labels, those of it with all they are nested in. */
  private readonly labelled = new Map<number, readonly number[]>();
  private readonly batches: { readonly count: Count; readonly mask: Uint8Array; readonly id: number }[];

  /**
   * @param batches for each batch, which rows match
   * @param above for each label, those it is nested in: what is counted for it is counted for them
   * @param known the accounts there are
   */
  constructor(
    private readonly columns: Columns,
    batches: ReadonlyMap<number, Uint8Array>,
    private readonly nowMs: number,
    private readonly inbox: number,
    private readonly above: ReadonlyMap<number, readonly number[]> = new Map(),
    private readonly known: ReadonlySet<number> = new Set(),
  ) {
    this.batches = [...batches].map(([id, mask]) => ({ id, mask, count: none() }));
  }

  private add(counts: Map<number, Count>, key: number, unread: boolean, dateMs: number): void {
    let count = counts.get(key);
    if (!count) counts.set(key, (count = none()));
    this.tick(count, unread, dateMs);
  }

  /** Rows rise with their dates, so the first one counted is the oldest. */
  private tick(count: Count, unread: boolean, dateMs: number): void {
    if (count.total === 0) count.oldestMs = dateMs;
    count.total++;
    if (unread) count.unread++;
    if (this.nowMs - dateMs > WEEK_MS) count.old++;
  }

  private labelsOf(set: number): readonly number[] {
    let labels = this.labelled.get(set);
    if (!labels) {
      const own = this.columns.labelSets[set]!;
      labels = [...new Set(own.flatMap((label) => [label, ...(this.above.get(label) ?? [])]))];
      this.labelled.set(set, labels);
    }
    return labels;
  }

  /** Counts so many rows more. @returns the counts when all rows are done */
  walk(rows: number): Tallied | null {
    const { columns } = this;
    const end = Math.min(columns.count, this.row + rows);
    for (; this.row < end; this.row++) {
      const { row } = this;
      const unread = (columns.bits[row]! & STATE_BIT.read) === 0;
      const dateMs = columns.dateMs[row]!;
      const folder = columns.folder[row]!;
      const place = folder === this.inbox && !Number.isNaN(columns.deferMs[row]!) ? 0 : folder;
      this.add(this.folders, place, unread, dateMs);
      if (place === this.inbox) {
        const account = columns.account[row]!;
        this.add(this.accounts, this.known.has(account) ? account : 0, unread, dateMs);
      }
      if (columns.marker[row] !== 0) {
        this.add(this.markers, columns.marker[row]!, unread, dateMs);
        this.tick(this.marked, unread, dateMs);
      }
      if (!Number.isNaN(columns.awaitMs[row]!)) this.tick(this.awaited, unread, dateMs);
      if ((columns.bits[row]! & STATE_BIT.owed) !== 0) this.tick(this.owed, unread, dateMs);
      for (const label of this.labelsOf(columns.labelSet[row]!)) this.add(this.labels, label, unread, dateMs);
      for (const batch of this.batches) if (batch.mask[row] === 1) this.tick(batch.count, unread, dateMs);
    }
    if (this.row < columns.count) return null;
    const { folders, accounts, labels, markers, marked, awaited, owed, batches } = this;
    return {
      folders,
      accounts,
      labels,
      markers,
      marked,
      awaited,
      owed,
      batches: new Map(batches.map(({ id, count }) => [id, count])),
    };
  }
}
