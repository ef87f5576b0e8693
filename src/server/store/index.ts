export { STATE_COLUMNS } from "./columns";
export {
  appendArrival,
  appendEntry,
  CHANNEL,
  currentSeq,
  entriesAfter,
  findEntry,
  firstSeq,
  forgetEntries,
  listEntries,
  readRun,
  setStanding,
  takeTurn,
  type LedgerEntry,
  type LedgerQuery,
} from "./ledger";
export { listOf } from "./list";
export { readStates } from "./states";
export { readThings } from "./things";
export { writeChange, type Written } from "./write";
