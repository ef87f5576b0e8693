import { STATE_BIT, type Columns } from "../columns";

export interface Count {
  total: number;
  unread: number;
  /** How many are older than a week. */
  old: number;
}

export const WEEK_MS = 7 * 86_400_000;

const none = (): Count => ({ total: 0, unread: 0, old: 0 });

export interface Tallied {
  /** By folder id. What is deferred is not counted in the inbox, but under 0. */
  readonly folders: ReadonlyMap<number, Count>;
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
  private readonly labels = new Map<number, Count>();
  private readonly markers = new Map<number, Count>();
  private readonly batches: { readonly count: Count; readonly mask: Uint8Array; readonly id: number }[];

  /** @param batches for each batch, which rows match */
  constructor(
    private readonly columns: Columns,
    batches: ReadonlyMap<number, Uint8Array>,
    private readonly nowMs: number,
    private readonly inbox: number,
  ) {
    this.batches = [...batches].map(([id, mask]) => ({ id, mask, count: none() }));
  }

  private add(counts: Map<number, Count>, key: number, unread: boolean, old: boolean): void {
    let count = counts.get(key);
    if (!count) counts.set(key, (count = none()));
    tick(count, unread, old);
  }

  /** Counts so many rows more. @returns the counts when all rows are done */
  walk(rows: number): Tallied | null {
    const { columns } = this;
    const end = Math.min(columns.count, this.row + rows);
    for (; this.row < end; this.row++) {
      const { row } = this;
      const unread = (columns.bits[row]! & STATE_BIT.read) === 0;
      const old = this.nowMs - columns.dateMs[row]! > WEEK_MS;
      const folder = columns.folder[row]!;
      this.add(this.folders, folder === this.inbox && !Number.isNaN(columns.deferMs[row]!) ? 0 : folder, unread, old);
      if (columns.marker[row] !== 0) this.add(this.markers, columns.marker[row]!, unread, old);
      for (const label of columns.labelSets[columns.labelSet[row]!]!) this.add(this.labels, label, unread, old);
      for (const batch of this.batches) if (batch.mask[row] === 1) tick(batch.count, unread, old);
    }
    if (this.row < columns.count) return null;
    const { folders, labels, markers, batches } = this;
    return { folders, labels, markers, batches: new Map(batches.map(({ id, count }) => [id, count])) };
  }
}

function tick(count: Count, unread: boolean, old: boolean): void {
  count.total++;
  if (unread) count.unread++;
  if (old) count.old++;
}
