import { randomUUID } from "node:crypto";
import { changeOfMessages, isEmpty, type MessageEdit, type MessageState } from "@/core/change";
import { runId, type MessageId, type PersonId } from "@/core/id";
import type { Actor } from "@/core/ledger";
import { plural } from "@/core/text";
import type { Transaction } from "../db";
import { appendEntry, takeTurn, writeChange } from "../store";

/** How what is written is called in the ledger, and by whom and why it was done. */
export interface Said {
  readonly actor: Actor;
  readonly cause: string | null;
  readonly name: string;
}

/** Writes what nobody decided just now, in a turn of its own, with its one ledger row. @returns how many messages it changed */
export async function writeUnattended(
  tx: Transaction,
  person: PersonId,
  states: ReadonlyMap<MessageId, MessageState>,
  editsOf: (state: MessageState, id: MessageId) => readonly MessageEdit[],
  said: Said,
): Promise<number> {
  const change = changeOfMessages([...states].map(([id, state]) => [id, editsOf(state, id)]));
  if (isEmpty(change)) return 0;
  const seq = await takeTurn(tx, person);
  const written = await writeChange(tx, person, change, states);
  await appendEntry(
    tx,
    person,
    {
      ...said,
      seq,
      id: runId(randomUUID()),
      kind: "run",
      of: null,
      macro: null,
      steps: [],
      about: plural(change.messages.size, "message"),
      messages: change.messages.size,
      skipped: written.skipped,
    },
    written.change,
  );
  return written.change.messages.size;
}
