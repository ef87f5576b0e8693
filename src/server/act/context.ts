import type { Database } from "../db";
import { everybody, Refusal, type Who } from "../run";

/** Who is asking, and what their requests run on. Every use case takes one. */
export interface Context extends Who {
  readonly db: Database;
}

/**
 * The one place that says who is asking. There is no sign-in yet: everybody who reaches the loopback address
 * is the first person.
 */
export async function whoIsAsking(db: Database): Promise<Context> {
  const [first] = await everybody(db);
  if (!first) throw new Refusal(409, "Not set up", "The database has no person yet. Start the app with npm run demo.");
  return { db, ...first };
}
