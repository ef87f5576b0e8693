export {
  applyEdits,
  cellOf,
  editsBetween,
  ofState,
  PLAIN_CELLS,
  readCell,
  sameState,
  sameValue,
  withLabel,
  type Edit,
  type Existence,
  type Flag,
  type MessageEdit,
  type MessageState,
  type StateEdit,
} from "./cell";
export {
  changeOf,
  changeOfMessages,
  compose,
  countCells,
  editsOf,
  EMPTY,
  filterChange,
  invert,
  isEmpty,
  joinEdits,
  messagesWith,
  sharing,
  touchedBy,
  type Change,
} from "./change";
export { reconcile, type Reconciled, type Skip, type SkipReason } from "./reconcile";
export {
  sameThing,
  THING_KINDS,
  thingKey,
  type Contact,
  type Task,
  type ThingEdit,
  type ThingKey,
  type ThingKind,
  type ThingValue,
} from "./thing";
export type { World } from "./world";
export { load, store, type StoredChange } from "./stored";
