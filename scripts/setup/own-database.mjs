import { existsSync } from "node:fs";
import { join } from "node:path";
import { startCluster } from "./cluster.mjs";
import { ROOT } from "./packages.mjs";
import { Trouble } from "./say.mjs";

/**
 * The database that scripts beside the demo work on: DATABASE_URL's, or the private one in TACHYNE_DATA (.data), which
 * is started where it does not run.
 * @returns {Promise<string>} its address
 * @throws Trouble where there is none yet
 */
export async function ownDatabase() {
  if (process.env.DATABASE_URL) return process.env.DATABASE_URL;
  const data = process.env.TACHYNE_DATA ?? join(ROOT, ".data");
  if (!existsSync(join(data, "postgres")))
    throw new Trouble("There is no mailbox yet. Start one with npm run demo, with --empty for one without demo mail.");
  return (await startCluster(data)).url;
}
