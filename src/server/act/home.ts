import type { Home } from "@/core/api";
import { listEntries } from "../store";
import { notFound, readDirectory, readSettings, readTemplates } from "../run";
import type { Context } from "./context";
import { listDecks } from "./decks";
import { listMacros } from "./macros";
import { listFolders } from "./folders";
import { entryShapeOf } from "./runs";
import { countOpenTasks } from "./tasks";
import { listBatches } from "./batches";
import { listPasses } from "./passes";
import { wordsThrough } from "../search";

/** What the first undo means is among them, also after a night in which rules have done a lot. */
const LEDGER_AT_START = { limit: 50, others: 20 };

/** Everything a window needs to begin, but for the messages. */
export async function readHome(context: Context): Promise<Home> {
  const { db, person } = context;
  // First of all: what is written while the rest is read then comes as events.
  const { seq, tasks } = await countOpenTasks(context);
  const [row] = await db.sql<Home["person"][]>`
    select id, token, name, address, zone from person where id = ${person}`;
  if (!row) throw notFound("person", person);
  const [directory, folders, templates, macros, decks, ledger, settings, batches, passes, words] = await Promise.all([
    readDirectory(db.sql, person),
    listFolders(context),
    readTemplates(db.sql, person),
    listMacros(context),
    listDecks(context),
    listEntries(db.sql, person, LEDGER_AT_START),
    readSettings(db.sql, person),
    listBatches(context),
    listPasses(context),
    wordsThrough(db.sql, person),
  ]);
  return {
    person: row,
    folders,
    templates,
    labels: [...directory.labels],
    markers: [...directory.markers],
    accounts: [...(directory.accounts ?? [])],
    macros,
    decks,
    batches,
    passes,
    ledger: ledger.map(entryShapeOf),
    settings,
    tasks,
    messages: folders.reduce((sum, folder) => sum + folder.total, 0),
    wordsLeft: words.left,
    seq,
  };
}
