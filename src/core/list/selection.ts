/**
 * What is selected: some messages by id, or the whole list but for some. The whole of 100,000 messages is thus
 * two numbers and a few ids, and one request says it.
 */
export type Selection =
  | { readonly kind: "some"; readonly ids: ReadonlySet<number> }
  | {
      readonly kind: "all";
      readonly except: ReadonlySet<number>;
      /** The largest id there was when it was selected: what comes in later is not meant. */
      readonly through: number;
    };

export const NONE: Selection = { kind: "some", ids: new Set() };

/** Everything the list holds now. */
export const all = (through: number): Selection => ({ kind: "all", except: new Set(), through });

/** @param id of a message that the list holds */
export const isSelected = (selection: Selection, id: number): boolean =>
  selection.kind === "some" ? selection.ids.has(id) : id <= selection.through && !selection.except.has(id);

export const isEmpty = (selection: Selection): boolean => selection.kind === "some" && selection.ids.size === 0;

/** The selection with some messages put in or taken out. */
export function withIds(selection: Selection, ids: Iterable<number>, on: boolean): Selection {
  if (selection.kind === "some") {
    const next = new Set(selection.ids);
    for (const id of ids)
      if (on) next.add(id);
      else next.delete(id);
    return { kind: "some", ids: next };
  }
  const except = new Set(selection.except);
  for (const id of ids)
    if (on) except.delete(id);
    else except.add(id);
  return { ...selection, except };
}

export const toggled = (selection: Selection, id: number): Selection =>
  withIds(selection, [id], !isSelected(selection, id));

/** What is not selected. @param through the largest id there is */
export const inverted = (selection: Selection, through: number): Selection =>
  selection.kind === "some" ? { kind: "all", except: selection.ids, through } : { kind: "some", ids: selection.except };

/** The ids that are selected, of those the list holds, in its order. */
export function* selectedIds(selection: Selection, listed: Iterable<number>): Generator<number> {
  for (const id of listed) if (isSelected(selection, id)) yield id;
}

/** How many are selected, of those the list holds. */
export function countSelected(selection: Selection, listed: Iterable<number>): number {
  if (selection.kind === "some") return selection.ids.size;
  let count = 0;
  for (const id of listed) if (isSelected(selection, id)) count++;
  return count;
}
