export { ColumnCursor, ColumnWriter, stateAt, textAt } from "./cursor";
export {
  COLUMNS_VERSION,
  decodeColumns,
  encodeColumns,
  STATE_BIT,
  type ColumnRow,
  type Columns,
  type TextColumn,
} from "./format";
export { mergeColumns, withoutMessages } from "./merge";
