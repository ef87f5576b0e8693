import { readFileSync } from "node:fs";
import { parseArgs } from "node:util";
import { migrateDatabase, NewerDatabase, NoWebRole, openDatabase } from "../db";
import { ensureSimulated } from "../gateway";
import { everybody, inTurn, settleNames } from "../run";
import { begin, type Beginning } from "./begin";

/**
 * `setup MIGRATIONS [BEGINNING.json] [--simulated RATE]`: brings the database to this version, makes the first person
 * from a beginning where there is nobody, and gives them the simulated mail service where there is none. Without a
 * beginning the first person begins in the app.
 */
const {
  positionals: [migrations, beginning],
  values: { simulated },
} = parseArgs({ allowPositionals: true, options: { simulated: { type: "string" } } });
const url = process.env.DATABASE_URL;
if (!url || !migrations) throw new Error("usage: DATABASE_URL=… setup MIGRATIONS [BEGINNING.json] [--simulated RATE]");

try {
  await migrateDatabase(url, migrations);
} catch (error) {
  if (!(error instanceof NewerDatabase || error instanceof NoWebRole)) throw error;
  console.error(error.message);
  process.exit(1);
}
const db = openDatabase(url, 2);
// What an older version kept by name is kept by id from now on.
for (const { person } of await everybody(db)) await inTurn(db, person, (tx) => settleNames(tx, person));
if (beginning) await begin(db, JSON.parse(readFileSync(beginning, "utf8")) as Beginning);
if (simulated !== undefined)
  for (const { person } of (await everybody(db)).slice(0, 1))
    await inTurn(db, person, (tx) => ensureSimulated(tx, person, Number(simulated)));
await db.close();
