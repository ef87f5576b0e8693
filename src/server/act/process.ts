import { openWalled, type Database } from "../db";

/** The one pool of this process, for requests. Kept on globalThis, since routes may be bundled apart from each other. */
const slot = globalThis as typeof globalThis & { tachyneDatabase?: Database };

export function processDatabase(): Database {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error("DATABASE_URL is not set: start the app with npm run demo");
  return (slot.tachyneDatabase ??= openWalled(url));
}
