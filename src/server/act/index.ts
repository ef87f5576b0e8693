export { changeBatch, createBatch, deleteBatch, listBatches } from "./batches";
export { begin, type Beginning } from "./begin";
export { MOST_INDEX_ROWS, readIndex, readIndexSince } from "./columns";
export { Refusal, whoIsAsking, type Context } from "./context";
export { readDirectory } from "./directory";
export { eventsFor, type Event } from "./events";
export { exportMessages } from "./export";
export { readHome } from "./home";
export { importFile, readJob, readJobs } from "./imports";
export { processDatabase } from "./process";
export { letGo } from "./keeping";
export { readEntry, readLedger } from "./ledger";
export {
  changeDeck,
  changeMacro,
  createDeck,
  createMacro,
  deleteDeck,
  deleteMacro,
  listDecks,
  listMacros,
} from "./macros";
export { listMessages, MOST_ROWS, readAttachment, readMessage, readRaw, readTest } from "./messages";
export { createFolder, listFolders, renameFolder } from "./folders";
export { changeLabel, createLabel } from "./labels";
export { changeMarker, createMarker, deleteMarker } from "./markers";
export { removeFolder, removeLabel } from "./remove";
export { listNarrowings, noteNarrowing } from "./narrowings";
export { dryRun } from "./dry";
export { exportPack, importPack } from "./packs";
export { runMacro } from "./runs";
export { changeSettings, keepLedger, readSettings } from "./settings";
export { changeTask, listTasks } from "./tasks";
export { takeBack } from "./undo";
export { wordsWith } from "./words";
