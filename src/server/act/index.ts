export { begin, type Beginning } from "./begin";
export { MOST_INDEX_ROWS, readIndex } from "./columns";
export { Refusal, whoIsAsking, type Context } from "./context";
export { readDirectory } from "./directory";
export { eventsFor, type Event } from "./events";
export { exportMessages } from "./export";
export { readHome } from "./home";
export { importFile, readJob, readJobs } from "./imports";
export { processDatabase } from "./process";
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
export {
  changeLabel,
  changeMarker,
  createFolder,
  createLabel,
  createMarker,
  deleteFolder,
  deleteLabel,
  deleteMarker,
  listFolders,
  renameFolder,
} from "./places";
export { dryRun } from "./dry";
export { exportPack, importPack } from "./packs";
export { runMacro } from "./runs";
export { changeSettings, keepLedger, readSettings } from "./settings";
export { changeTask, listTasks } from "./tasks";
export { takeBack } from "./undo";
