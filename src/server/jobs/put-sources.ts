import { randomUUID } from "node:crypto";
import { runId, type MessageId, type PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { putWords } from "../search";
import { appendArrival, bringSources, ownAddresses, readAcquaintance, tell, type Brought } from "../store";
import { suspectBits } from "./take-in";

/** A source of a message whose headers are here. */
export type Source = Brought & { readonly vector: string };

/** Puts sources where their headers stood for them, in the person's turn; those that have come already are left out. */
export async function putSources(
  tx: Transaction,
  person: PersonId,
  seq: number,
  sources: readonly Source[],
): Promise<void> {
  const [own, known] = await Promise.all([ownAddresses(tx, person), readAcquaintance(tx, person)]);
  const brought = sources.map((source) => {
    const traits = source.parsed.traits | suspectBits(source, own, known);
    return { ...source, parsed: { ...source.parsed, traits } };
  });
  const messages = await bringSources(tx, person, own, brought);
  const words = sources.flatMap(({ content, vector }) =>
    (messages.get(content) ?? []).map((message): [MessageId, string] => [message, vector]),
  );
  if (words.length === 0) return;
  await putWords(tx, person, words);
  await tell(tx, person, "words");
  await appendArrival(
    tx,
    person,
    seq,
    runId(randomUUID()),
    words.map(([message]) => message),
  );
}
