import { readFileSync } from "node:fs";
import { parseArgs } from "node:util";
import { migrateDatabase, NewerDatabase, openDatabase } from "../db";
import { ensureSimulated } from "../gateway";
import { everybody, inTurn, settleNames } from "../run";
import { begin, type Beginning } from "./begin";

/**
 * `setup MIGRATIONS [BEGINNING.json] [--simulated RATE]`: brings the database to this version, and gives its first
 * person the simulated mail service where there is none; prints "new" for a new person.
 */
const {
  positionals: [migrations, beginning],
  values: { simulated },
} = parseArgs({ allowPositionals: true, options: { simulated: { type: "string" } } });
const url = process.env.DATABASE_URL;
if (!url || !migrations) throw new Error("usage: DATABASE_URL=… setup MIGRATIONS [BEGINNING.json] [--simulated RATE]");

const EMPTY: Beginning = {
  name: "You",
  address: "you@tachyne.example",
  aliases: [],
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  folders: [],
  labels: [],
};

try {
  await migrateDatabase(url, migrations);
} catch (error) {
  if (!(error instanceof NewerDatabase)) throw error;
  console.error(error.message);
  process.exit(1);
}
const db = openDatabase(url, 2);
// What an older version kept by name is kept by id from now on.
for (const { person } of await everybody(db)) await inTurn(db, person, (tx) => settleNames(tx, person));
const { person, isNew } = await begin(
  db,
  beginning ? (JSON.parse(readFileSync(beginning, "utf8")) as Beginning) : EMPTY,
);
if (simulated !== undefined) await inTurn(db, person, (tx) => ensureSimulated(tx, person, Number(simulated)));
console.log(isNew ? "new" : "kept");
await db.close();
