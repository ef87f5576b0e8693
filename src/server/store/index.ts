export { inMs } from "./columns";
export {
  appendArrival,
  appendEntry,
  CHANNEL,
  currentSeq,
  entriesAfter,
  findEntry,
  firstSeq,
  forgetEntries,
  KEPT_SKIPS,
  listEntries,
  readRun,
  readSkipped,
  setStanding,
  takeTurn,
  tell,
  type LeftAlone,
  type LedgerEntry,
  type LedgerQuery,
  type NewEntry,
} from "./ledger";
export { listOf } from "./list";
export { INDEX_FIELDS, type IndexField } from "./index-fields";
export { messageColumns, messageRecord, type MessageColumn } from "./message-columns";
export { readStates } from "./states";
export { readThings } from "./things";
export { messagesDue, peopleDue } from "./timers";
export { writeChange, type Written } from "./write";
