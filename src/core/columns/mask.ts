import { fold, isAnyDue, isTraitState, STATE_TRAITS, WORD_HEADERS, type Test } from "../narrow";
import { textAt, type OpenTasks } from "./cursor";
import { columnOf, foldedOf, hitsIn } from "./folded";
import { STATE_BIT, type Columns } from "./format";
import type { RowIndex } from "./ids";

/** Which messages hold a needle in their words; undefined while that is not known. */
export type Words = (needle: string) => Iterable<number> | undefined;

type StateName = Extract<Test, { kind: "state" }>["state"];

const STATE = {
  read: STATE_BIT.read,
  pinned: STATE_BIT.pin,
  owed: STATE_BIT.owed,
  flagged: STATE_BIT.flagged,
} as const;

/**
 * A checked expression over all rows at once: 1 for each row that matches. One tight loop over one column for
 * each condition, which for a million rows takes a few milliseconds where asking row by row takes a hundred.
 * The row by row form is `matcher` in core/narrow, the SQL form is in server/search; tests hold all equal.
 */
export class Masks {
  constructor(
    private readonly columns: Columns,
    private readonly rows: RowIndex,
    private readonly words: Words,
    private readonly tasks: OpenTasks | null = null,
  ) {}

  of(test: Test): Uint8Array {
    switch (test.kind) {
      case "all":
        return this.none().fill(1);
      case "and":
        return this.joined(test.parts, and);
      case "or":
        return test.parts.length === 0 ? this.none() : this.joined(test.parts, or);
      case "not": {
        const mask = this.of(test.part);
        const four = inFours(mask);
        for (let i = 0; i < four.length; i++) four[i]! ^= 0x01010101;
        return mask;
      }
      case "state":
        return this.state(test.state);
      case "text":
        return this.text(test);
      case "words":
        return this.inWords(test);
      case "folder":
        return this.among(this.columns.folder, new Set(test.ids));
      case "account":
        return this.among(this.columns.account, new Set(test.ids));
      case "marker":
        return this.among(this.columns.marker, new Set(test.ids));
      case "label": {
        const sets = this.columns.labelSets.map((set) => set.some((id) => test.ids.includes(id)));
        return this.chosen(this.columns.labelSet, (n) => sets[n]!);
      }
      case "range":
        return this.range(test);
      case "task": {
        const due = [...(this.tasks ?? [])].filter(([, times]) => isAnyDue(times, test.due));
        return this.holding(due.map(([id]) => id));
      }
    }
  }

  /** No row; the buffer is as long as whole fours of rows need. */
  private none = (): Uint8Array =>
    new Uint8Array(new ArrayBuffer(4 * Math.ceil(this.columns.count / 4)), 0, this.columns.count);

  private joined(parts: readonly Test[], join: (all: Uint8Array, one: Uint8Array) => void): Uint8Array {
    const [first, ...rest] = parts;
    const all = this.of(first ?? { kind: "all" });
    for (const part of rest) join(all, this.of(part));
    return all;
  }

  private state(state: StateName): Uint8Array {
    const { bits, traits, awaitMs, deferMs, backMs } = this.columns;
    if (isTraitState(state)) return this.withBit(traits, STATE_TRAITS[state]);
    if (state === "awaited") return this.within(awaitMs, -Infinity, Infinity);
    if (state === "marked") return this.chosen(this.columns.marker, (n) => n !== 0);
    if (state === "returned") return this.within(backMs, -Infinity, Infinity);
    if (state === "deferred") return this.within(deferMs, -Infinity, Infinity);
    return this.withBit(bits, STATE[state]);
  }

  private withBit(column: Uint8Array | Uint16Array, bit: number): Uint8Array {
    const mask = this.none();
    for (let i = 0; i < mask.length; i++) mask[i] = (column[i]! & bit) !== 0 ? 1 : 0;
    return mask;
  }

  /** Numbers from (included) to (left out); NaN is in no range. */
  private within(column: Float64Array | Uint32Array, from: number, to: number): Uint8Array {
    const mask = this.none();
    for (let i = 0; i < mask.length; i++) mask[i] = column[i]! >= from && column[i]! < to ? 1 : 0;
    return mask;
  }

  private range({ field, from, to }: Extract<Test, { kind: "range" }>): Uint8Array {
    const { size, dateMs, dueMs, deferMs } = this.columns;
    return this.within({ size, date: dateMs, due: dueMs, deferred: deferMs }[field], from ?? -Infinity, to ?? Infinity);
  }

  private among(column: Uint32Array | Uint8Array, ids: ReadonlySet<number>): Uint8Array {
    const [only] = ids;
    if (ids.size !== 1) return this.chosen(column, (n) => ids.has(n));
    const mask = this.none();
    for (let i = 0; i < mask.length; i++) mask[i] = column[i] === only ? 1 : 0;
    return mask;
  }

  private chosen(column: Uint32Array | Uint8Array, isChosen: (n: number) => boolean): Uint8Array {
    const mask = this.none();
    for (let i = 0; i < mask.length; i++) mask[i] = isChosen(column[i]!) ? 1 : 0;
    return mask;
  }

  private text({
    field,
    needle,
    whole,
  }: Pick<Extract<Test, { kind: "text" }>, "field" | "needle" | "whole">): Uint8Array {
    const { columns } = this;
    const mask = this.none();
    if (field === "note") {
      // Notes are few: their texts are folded as they are, those written since among them.
      const known = new Map<number, number>();
      const { index } = columns.texts.note;
      for (let i = 0; i < mask.length; i++) {
        let hit = known.get(index[i]!);
        if (hit === undefined) {
          const text = fold(textAt(columns, "note", i));
          known.set(index[i]!, (hit = (whole ? text === needle : text.includes(needle)) ? 1 : 0));
        }
        mask[i] = hit;
      }
      return mask;
    }
    const name = columnOf(field);
    const hits = hitsIn(foldedOf(columns, name), needle, whole);
    const { index } = columns.texts[name];
    for (let i = 0; i < mask.length; i++) mask[i] = hits[index[i]!]!;
    return mask;
  }

  private holding(ids: Iterable<number>): Uint8Array {
    const mask = this.none();
    for (const id of ids) {
      const row = this.rows.rowOf(id);
      if (row !== undefined) mask[row] = 1;
    }
    return mask;
  }

  private inWords({ where, needle }: Extract<Test, { kind: "words" }>): Uint8Array {
    const mask = this.holding(this.words(needle) ?? []);
    if (where === "any") for (const field of WORD_HEADERS) or(mask, this.text({ field, needle, whole: false }));
    return mask;
  }
}

/** Four rows as one number: what joins masks does a quarter of the steps. */
const inFours = (mask: Uint8Array): Uint32Array => new Uint32Array(mask.buffer);

function and(all: Uint8Array, one: Uint8Array): void {
  const [a, b] = [inFours(all), inFours(one)];
  for (let i = 0; i < a.length; i++) a[i]! &= b[i]!;
}

function or(all: Uint8Array, one: Uint8Array): void {
  const [a, b] = [inFours(all), inFours(one)];
  for (let i = 0; i < a.length; i++) a[i]! |= b[i]!;
}
