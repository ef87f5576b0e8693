const BLOCK_BITS = 4;
const BLOCK_MASK = 2 ** BLOCK_BITS - 1;

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

  /**
   * Ids follow one another closely, so a block of them stays together and no two blocks meet. The blocks are
   * strewn over the table: in one long row of filled slots, an id that is not there would be sought to its end.
   */
  private slotOf(id: number): number {
    const n = id % 2_147_483_647;
    return ((Math.imul(n >>> BLOCK_BITS, 0x9e3779b1) << BLOCK_BITS) | (n & BLOCK_MASK)) & this.mask;
  }

  rowOf(id: number): number | undefined {
    for (let at = this.slotOf(id); ; at = (at + 1) & this.mask) {
      const row = this.slots[at]! - 1;
      if (row < 0) return undefined;
      if (this.ids[row] === id) return row;
    }
  }
}
