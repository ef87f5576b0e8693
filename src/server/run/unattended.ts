import { randomUUID } from "node:crypto";
import { changeOfMessages, isEmpty, type MessageEdit, type MessageState } from "@/core/change";
import { runId, type MessageId, type PersonId } from "@/core/id";
import type { Actor } from "@/core/ledger";
import { plural } from "@/core/text";
import type { Transaction } from "../db";
import { appendEntry, takeTurn, writeChange } from "../store";

/** Writes what nobody decided just now, in a turn of its own, with its one ledger row. @returns how many messages it changed */
export async function writeUnattended(
  tx: Transaction,
  person: PersonId,
  states: ReadonlyMap<MessageId, MessageState>,
  editsOf: (state: MessageState) => readonly MessageEdit[],
  said: { readonly actor: Actor; readonly cause: string; readonly name: string },
): Promise<number> {
  const change = changeOfMessages([...states].map(([id, state]) => [id, editsOf(state)]));
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
      about: plural(states.size, "message"),
      messages: states.size,
      skipped: written.skipped,
    },
    written.change,
  );
  return written.change.messages.size;
}
