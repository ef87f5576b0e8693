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
  type CellEdit,
  type Edit,
  type Existence,
  type Flag,
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
  invert,
  joinEdits,
  sharing,
  type Change,
} from "./change";
export { changeBetween, reconcile, type ReadState, type Reconciled, type Skip, type SkipReason } from "./reconcile";
export { isThing, thingCell, type Contact, type ReadThing, type Task, type ThingEdit } from "./thing";
export { load, store, type StoredChange } from "./stored";
