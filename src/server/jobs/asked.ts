import { randomUUID } from "node:crypto";
import { changeOf, type ThingEdit } from "@/core/change";
import { runId, type PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { appendEntry, tell, writeChange } from "../store";

/** What the entry of the ledger says. */
export interface Said {
  readonly name: string;
  readonly about: string;
  readonly cause: string;
}

/**
 * Writes what has come of something that was asked of a service, as an entry of its own.
 * @returns false where it was taken back meanwhile: nothing is written then
 */
export async function writeOutcome(
  tx: Transaction,
  seq: number,
  person: PersonId,
  edits: readonly ThingEdit[],
  { name, about, cause }: Said,
): Promise<boolean> {
  const { change, skipped } = await writeChange(tx, person, changeOf([], edits));
  if (change.things.size === 0) return false;
  const entry = {
    seq,
    id: runId(randomUUID()),
    kind: "run",
    actor: "outbox",
    cause,
    of: null,
    macro: null,
    name,
    steps: [],
    about,
    messages: 0,
    skipped,
  } as const;
  await appendEntry(tx, person, entry, change);
  await tell(tx, person, "settings");
  return true;
}
