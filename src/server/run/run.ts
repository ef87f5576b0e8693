import { runId, type MessageId } from "@/core/id";
import type { Actor } from "@/core/ledger";
import type { Plan, Question } from "@/core/macro";
import type { RunRequest } from "@/core/api";
import type { Database } from "../db";
import { findEntry, noteDeeds, type LedgerEntry } from "../store";
import { apply } from "./apply";
import { NeedsAhead, prepare, readAhead, readPlanning, type Ahead, type Prepared } from "./planning";
import { applyOnSending } from "./rules";
import { inTurn, type Who } from "./turn";

/**
 * What came of a run: its entry, and whether it may wait for letters that the person is to finish; or the questions
 * that have to be answered first.
 */
export type Ran =
  | { readonly entry: LedgerEntry; readonly mayWait: boolean; readonly asks: readonly [] }
  | { readonly entry: null; readonly asks: readonly Question[] };

/** Who makes runs, and which rule, account or timer makes them do so. */
export interface By {
  readonly actor: Actor;
  readonly cause: string | null;
}

export const BY_PERSON: By = { actor: "person", cause: null };

/** The messages a plan does something about. */
const decidedBy = ({ change, things }: Plan): Set<MessageId> =>
  new Set([...change.messages.keys(), ...things.map(({ source }) => source)]);

/**
 * Runs a macro as one transaction: planned on what is stored then, written where it still holds, one ledger
 * row. The same id again answers with what the first did.
 * @param check throws where it must not be done
 */
export async function run(
  db: Database,
  who: Who,
  request: RunRequest,
  by: By = BY_PERSON,
  check: (prepared: Prepared) => void = () => {},
): Promise<Ran> {
  const id = runId(request.id);
  const attempt = (ahead: Ahead | "unread") =>
    inTurn(db, who.person, async (tx, seq): Promise<Ran> => {
      // Asked for together: what both say holds in this turn.
      const planning = readPlanning(tx, who, request);
      planning.catch(() => undefined);
      const earlier = await findEntry(tx, who.person, id);
      if (earlier) return { entry: earlier, mayWait: true, asks: [] };
      const prepared = await prepare(tx, who, request, ahead, planning);
      check(prepared);
      if (prepared.plan.asks.length > 0) return { entry: null, asks: prepared.plan.asks };
      const { about, by: hand, cause = by.cause, pass } = request;
      const onQueued = (letters: readonly MessageId[]) => applyOnSending(tx, who, letters);
      const entry = await apply(tx, who, prepared, { seq, id, actor: by.actor, cause, hand, about, onQueued });
      if (pass) await noteDeeds(tx, who.person, pass, id, entry.name, decidedBy(prepared.plan));
      return { entry, mayWait: prepared.plan.pauses.length > 0, asks: [] };
    });
  try {
    // Most runs look at nothing that would have to be read before their turn.
    return await attempt("unread");
  } catch (error) {
    if (!(error instanceof NeedsAhead)) throw error;
    return attempt(await readAhead(db.sql, who, request));
  }
}
