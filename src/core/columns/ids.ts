/** Where each message is: row by id, as an open hash table in one array, which costs 16 bytes a message at most. */
export class RowIndex {
  readonly slots: Int32Array;
  private readonly mask: number;

  /** @param made the table of an index over the same ids, which a worker may have made */
  constructor(
    private readonly ids: Float64Array,
    count: number,
    made?: Int32Array,
  ) {
    if (made) {
      this.slots = made;
      this.mask = made.length - 1;
      return;
    }
    let size = 16;
    while (size < count * 2) size *= 2;
    this.mask = size - 1;
    // Rows are kept as row + 1, so that an empty slot is 0.
    this.slots = new Int32Array(size);
    for (let row = 0; row < count; row++) {
      let at = this.slotOf(ids[row]!);
      while (this.slots[at] !== 0) at = (at + 1) & this.mask;
      this.slots[at] = row + 1;
    }
  }

  /** Ids follow one another closely: as they are, they fill the table without meeting. */
  private slotOf = (id: number): number => (id % 2_147_483_647) & this.mask;

  rowOf(id: number): number | undefined {
    for (let at = this.slotOf(id); ; at = (at + 1) & this.mask) {
      const row = this.slots[at]! - 1;
      if (row < 0) return undefined;
      if (this.ids[row] === id) return row;
    }
  }
}
