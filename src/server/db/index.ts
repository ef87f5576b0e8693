export {
  openDatabase,
  ormOn,
  type Connection,
  type Database,
  type Orm,
  type Queryable,
  type Transaction,
} from "./client";
export { readCopy, type CopyRow } from "./read-copy";
export { migrateDatabase, NewerDatabase } from "./migrate";
export {
  batchTable,
  blockedTable,
  chunkTable,
  contactTable,
  contentTable,
  deckTable,
  folderTable,
  identityTable,
  jobTable,
  labelTable,
  ledgerTable,
  macroTable,
  markerTable,
  messageTable,
  narrowedTable,
  personTable,
  taskTable,
  templateTable,
} from "./schema";
