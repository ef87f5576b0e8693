export {
  openDatabase,
  ormOn,
  PREPARED,
  type Connection,
  type Database,
  type Orm,
  type Queryable,
  type Transaction,
} from "./client";
export { become, openWalled } from "./walled";
export { NOBODY } from "./client";
export { readiness } from "./version";
export { noteIfItCan, takesNothing } from "./faults";
export { readCopy, type CopyRow } from "./read-copy";
export { migrateDatabase, NewerDatabase, NoWebRole } from "./migrate";
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
