export { ColumnCursor, ColumnWriter, stateAt, textAt, type ShownText } from "./cursor";
export { FOLDED_COLUMNS, foldedOf, hitsIn } from "./folded";
export {
  columnsOf,
  columnsOfFields,
  STATE_BIT,
  type ColumnFields,
  type ColumnRow,
  type Columns,
  type NumberColumn,
  type TextColumn,
} from "./format";
export { RowIndex } from "./ids";
export { mergeColumns, tidied, withoutMessages } from "./merge";
export { COLUMNS_VERSION, decodeIndex, encodeIndex, type About, type Index } from "./stored";
export { Masks, type Words } from "./mask";
export { columnSeekers, type KnownWords } from "./seek";
export { rowOfState, stateOfRow, type StateRow } from "./state-row";
