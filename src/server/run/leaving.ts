import {
  changeOfMessages,
  compose,
  filterChange,
  type Change,
  type HeldState,
  type Skip,
  type ThingEdit,
} from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { listOf, readPauses } from "../store";
import { readDirectory } from "./directory";

interface Held {
  readonly message: number;
  readonly state: HeldState;
}

/**
 * What follows from a change that puts drafts and messages on their way somewhere else: a message that leaves the
 * outbox is called off, and what waits for a draft that leaves waits no longer. What is being sent stays.
 */
export async function leaving(
  tx: Transaction,
  person: PersonId,
  change: Change,
): Promise<{ readonly wanted: Change; readonly left: readonly Skip[] }> {
  const moved = [...change.messages].filter(([, edits]) =>
    edits.some(({ kind }) => kind === "folder" || kind === "gone"),
  );
  if (moved.length === 0) return { wanted: change, left: [] };
  const [open] = await tx<{ some: boolean }[]>`
    select exists (select from held where person = ${person} and state <> 'sent')
      or exists (select from pause where person = ${person}) as some`;
  if (!open?.some) return { wanted: change, left: [] };
  const { folders } = await readDirectory(tx, person);
  const stays = new Set<number>(
    folders.filter(({ role }) => role === "drafts" || role === "outbox").map(({ id }) => id),
  );
  const gone = moved
    .filter(([, edits]) =>
      edits.some((edit) => edit.kind === "gone" || (edit.kind === "folder" && !stays.has(edit.after))),
    )
    .map(([id]): MessageId => id);
  const held = await tx<Held[]>`
    select message, case when state in ('later', 'refused') then 'waiting' else state end as state
    from held where person = ${person} and state <> 'sent'
      and message = any(${listOf(gone)}::text::bigint[])`;
  const sending = new Set(held.filter(({ state }) => state === "sending").map(({ message }) => messageId(message)));
  const things: ThingEdit[] = held
    .filter(({ state }) => state !== "sending")
    .map(({ message, state }) => ({
      kind: "held",
      key: String(message),
      about: messageId(message),
      before: state,
      after: null,
    }));
  for (const [draft, before] of await readPauses(tx, person, gone))
    if (!sending.has(messageId(draft)))
      things.push({ kind: "pause", key: String(draft), about: messageId(before.message), before, after: null });
  const rest = filterChange(
    change,
    (_, message) => !sending.has(message),
    () => true,
  );
  const left = [...sending].map((message): Skip => ({ message, cell: "folder", reason: "sent" }));
  const fresh = things.filter(({ kind, key }) => !change.things.has(`${kind}:${key}` as never));
  return { wanted: compose(rest, changeOfMessages([], fresh)), left };
}
