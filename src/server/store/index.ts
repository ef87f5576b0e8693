export { STATE_COLUMNS } from "./columns";
export {
  appendArrival,
  appendEntry,
  CHANNEL,
  currentSeq,
  entriesAfter,
  findEntry,
  listEntries,
  readRun,
  setStanding,
  takeTurn,
  type LedgerEntry,
} from "./ledger";
export { readStates } from "./states";
export { writeChange, type Written } from "./write";
