import { randomUUID } from "node:crypto";
import { stateOf, type Manifest } from "@/core/archive";
import { changeOf, changeOfMessages, editsBetween, type MessageEdit, type ThingEdit } from "@/core/change";
import { folderId, messageId, runId, type MessageId, type PersonId } from "@/core/id";
import { labelNamed, markerNamed, MOST_MARKERS } from "@/core/place";
import { plural } from "@/core/text";
import type { Database, Transaction } from "../../db";
import { inTurn, readDirectory, settleNames } from "../../run";
import { appendEntry, readStates, reserve, takeTurn, tell, writeChange } from "../../store";
import type { JobRow } from "../rows";
import type { Incoming } from "./items";

/** What an archive of this app's own knows beside the mail. */

/** Labels and markers it names, where there are none of the name. */
export async function bringNames(db: Database, person: PersonId, { labels, markers }: Manifest): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const directory = await readDirectory(tx, person);
    for (const { name, colour } of labels)
      if (!labelNamed(directory, name))
        await tx`insert into label (person, name, colour) values (${person}, ${name}, ${colour})`;
    const fresh = markers.filter(({ letter }) => !markerNamed(directory, letter));
    for (const { letter, colour, meaning } of fresh.slice(0, MOST_MARKERS - directory.markers.length))
      await tx`
        insert into marker (person, id, letter, colour, meaning, position)
        select ${person}, (select min(n) from generate_series(1, ${MOST_MARKERS}) n
            where not exists (select from marker where person = ${person} and id = n)), ${letter}, ${colour}, ${meaning},
          coalesce((select max(position) + 1 from marker where person = ${person}), 0)`;
    await settleNames(tx, person);
    await tell(tx, person, "settings");
  });
}

/** Writes what came with the mail, and notes it in the ledger. */
export async function note(
  tx: Transaction,
  { person, name }: JobRow,
  edits: ReadonlyMap<MessageId, readonly MessageEdit[]>,
  things: readonly ThingEdit[],
): Promise<void> {
  const who = person as PersonId;
  const seq = await takeTurn(tx, who);
  const wanted = things.length > 0 ? changeOf([], [...things]) : changeOfMessages(edits);
  const { change, skipped } = await writeChange(tx, who, wanted);
  const entry = {
    seq,
    id: runId(randomUUID()),
    kind: "run" as const,
    // Nothing that a person takes back with a key: it came with the mail.
    actor: "keeper" as const,
    cause: name,
    of: null,
    macro: null,
    name: "Brought along with its mail",
    steps: [],
    about: things.length > 0 ? plural(things.length, "thing") : plural(edits.size, "message"),
    messages: edits.size,
    skipped,
  };
  await appendEntry(tx, who, entry, change);
}

/**
 * Makes messages that have just come in what they were where they came from. A source that was there more often than
 * it is here is here as often then; what was here before stays as it is.
 * @param ids of those that are new, by their sources' hashes
 */
export async function restoreStates(
  tx: Transaction,
  job: JobRow,
  folder: number,
  items: readonly Incoming[],
  ids: ReadonlyMap<string, MessageId>,
): Promise<void> {
  const known = items.filter(({ line }) => line !== null);
  if (known.length === 0) return;
  const person = job.person as PersonId;
  const directory = await readDirectory(tx, person);
  const hashes = [...new Set(known.map(({ line }) => line!.hash))];
  const here = await tx<{ hash: string; message: number; count: number }[]>`
    select encode(c.hash, 'hex') as hash, min(m.id) as message, count(*)::int as count
    from content c join message m on m.person = c.person and m.content = c.id
    where c.person = ${person} and c.hash in (select decode(h, 'hex') from unnest(${hashes}::text[]) h) group by c.hash`;
  const counts = new Map(here.map(({ hash, count }) => [hash, count]));
  const sources = new Map(here.map(({ hash, message }) => [hash, messageId(message)]));
  const states = await readStates(tx, person, [...ids.values()]);
  const edits = new Map<MessageId, readonly MessageEdit[]>();
  const fresh = new Set(ids.keys());
  for (const { line, nth } of known) {
    const { hash } = line!;
    const wanted = stateOf(line!, folderId(folder), directory);
    const id = ids.get(hash);
    if (id !== undefined && fresh.delete(hash)) {
      const changed = editsBetween(states.get(id)!, wanted);
      if (changed.length > 0) edits.set(id, changed);
      continue;
    }
    const source = sources.get(hash);
    if (source === undefined || nth <= counts.get(hash)!) continue;
    counts.set(hash, counts.get(hash)! + 1);
    const [copy] = await reserve(tx, "message", 1);
    edits.set(messageId(copy!), [{ kind: "exists", before: null, after: { source, state: wanted } }]);
  }
  if (edits.size > 0) await note(tx, job, edits, []);
}
