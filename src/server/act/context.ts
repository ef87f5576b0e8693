import type { Issue } from "@/core/narrow";
import { textOfIssue } from "@/core/narrow";
import { personId, type PersonId } from "@/core/id";
import type { Database } from "../db";

/** Who is asking, and what their requests run on. Every use case takes one. */
export interface Context {
  readonly db: Database;
  readonly person: PersonId;
  /** IANA name of the person's time zone. */
  readonly zone: string;
}

/** A request that cannot be done, with words for the person who made it. */
export class Refusal extends Error {
  override readonly name = "Refusal";
  constructor(
    readonly status: 400 | 403 | 404 | 409 | 413 | 422,
    readonly title: string,
    readonly detail: string,
    readonly issues?: readonly { text: string; from: number; to: number }[],
  ) {
    super(`${title}: ${detail}`);
  }
}

export const notFound = (what: string, id: string | number): Refusal =>
  new Refusal(404, `No such ${what}`, `There is no ${what} ${id}. It may have been deleted.`);

export const badNarrow = (issues: readonly Issue[]): Refusal =>
  new Refusal(
    400,
    "The narrowing cannot be read",
    issues.map(textOfIssue).join(" "),
    issues.map((issue) => ({ text: textOfIssue(issue), ...issue.span })),
  );

/**
 * The one place that says who is asking. There is no sign-in yet: everybody who reaches the loopback address
 * is the first person.
 */
export async function whoIsAsking(db: Database): Promise<Context> {
  const [row] = await db.sql<{ id: number; zone: string }[]>`select id, zone from person order by id limit 1`;
  if (!row) throw new Refusal(409, "Not set up", "The database has no person yet. Start the app with npm run demo.");
  return { db, person: personId(row.id), zone: row.zone };
}
