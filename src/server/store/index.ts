export { inMs } from "./columns";
export {
  appendArrival,
  arrivedBy,
  appendEntry,
  currentSeq,
  entriesAfter,
  findEntry,
  firstSeq,
  forgetEntries,
  KEPT_SKIPS,
  listEntries,
  partsOf,
  readRun,
  readSkipped,
  setStanding,
  takeTurn,
  type LeftAlone,
  type LedgerEntry,
  type LedgerQuery,
  type NewEntry,
} from "./ledger";
export { CHANNEL, tell, toldAfterwards, type News } from "./news";
export { readAcquaintance } from "./acquaintance";
export { readWays, type SourceWays } from "./leave";
export { claimHeld, readPauses, USUAL_HOLD } from "./held";
export { listOf } from "./list";
export { INDEX_FIELDS, type IndexField } from "./index-fields";
export { messageColumns, messageRecord, type MessageColumn } from "./message-columns";
export {
  insertMessages,
  markAnswered,
  ownAddresses,
  replaceSource,
  reserve,
  showDraft,
  viaColumns,
  claimMessages,
  type NewMessage,
} from "./new-messages";
export {
  awaited,
  countComing,
  endComing,
  resumeComing,
  isWaitedFor,
  nextComing,
  postponeComing,
  stillComing,
  wantSources,
  type Coming,
} from "./coming";
export { hashesOf, type Hashes } from "./hashes";
export { asKnown, bringSources, noteSizes, type Brought } from "./sources";
export { noteWrittenTo } from "./written-to";
export { readStates } from "./states";
export { readThings } from "./things";
export { endTimers, messagesDue, peopleDue, type TimerKind } from "./timers";
export { writeChange, type Written } from "./write";
export { noteDeeds, readDeeds } from "./passes";
