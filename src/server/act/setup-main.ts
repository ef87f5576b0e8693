import { readFileSync } from "node:fs";
import { migrateDatabase, NewerDatabase, openDatabase } from "../db";
import { everybody, inTurn, settleNames } from "../run";
import { begin, type Beginning } from "./begin";

/** `setup MIGRATIONS [BEGINNING.json]`: brings the database to this version; prints "new" for a new person. */
const [migrations, beginning] = process.argv.slice(2);
const url = process.env.DATABASE_URL;
if (!url || !migrations) throw new Error("usage: DATABASE_URL=… setup MIGRATIONS [BEGINNING.json]");

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
const { isNew } = await begin(db, beginning ? (JSON.parse(readFileSync(beginning, "utf8")) as Beginning) : EMPTY);
console.log(isNew ? "new" : "kept");
await db.close();
