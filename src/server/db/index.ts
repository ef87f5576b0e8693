export { openDatabase, type Connection, type Database, type Queryable, type Transaction } from "./client";
export { migrateDatabase, NewerDatabase } from "./migrate";
export {
  chunkTable,
  contentTable,
  deckTable,
  folderTable,
  jobTable,
  labelTable,
  ledgerTable,
  macroTable,
  markerTable,
  messageTable,
  personTable,
} from "./schema";
