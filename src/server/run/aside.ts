import { sourceOf, type MessageEdit } from "@/core/change";
import { messageId, type PersonId } from "@/core/id";
import { TRAIT } from "@/core/narrow";
import { folderFor } from "@/core/place";
import type { Transaction } from "../db";
import { listOf, readStates } from "../store";
import { readDirectory } from "./directory";
import { writeUnattended } from "./unattended";

/**
 * Of mail that has just come in, puts aside what the person wants there: in the same transaction, so that nothing of
 * it is ever seen in the inbox. People one has written to are never put aside, whatever was wanted before.
 * @returns how many messages
 */
export async function setAside(tx: Transaction, person: PersonId, arrived: readonly number[]): Promise<number> {
  const [any] = await tx`select from aside where person = ${person} and state = 'aside' limit 1`;
  if (!any) return 0;
  const directory = await readDirectory(tx, person);
  const [inbox, to] = [folderFor(directory, "inbox")?.id, folderFor(directory, "aside")?.id];
  if (inbox === undefined || to === undefined) return 0;
  const rows = await tx<{ id: number; list: string; address: string; met: boolean }[]>`
    select m.id, m.list, m.from_address as address, m.list = '' and exists (
      select from written_to w where w.person = m.person and w.address = lower(m.from_address)) as met
    from unnest(${listOf(arrived)}::text::bigint[]) n join message m on m.person = ${person} and m.id = n
    where m.traits & ${TRAIT.mine} = 0`;
  const wanted = new Map<string, number[]>();
  for (const { id, list, address, met } of rows) {
    const source = sourceOf(list, address);
    if (!met) wanted.set(source, [...(wanted.get(source) ?? []), id]);
  }
  const sources = await tx<{ source: string }[]>`
    select source from aside where person = ${person} and state = 'aside' and source = any(${[...wanted.keys()]}::text[])`;
  let count = 0;
  for (const { source } of sources) {
    const states = await readStates(tx, person, wanted.get(source)!.map(messageId));
    count += await writeUnattended(
      tx,
      person,
      states,
      (state): MessageEdit[] => (state.folder === inbox ? [{ kind: "folder", before: inbox, after: to }] : []),
      { actor: "rule", cause: source, name: `Aside: ${source.slice(source.indexOf(" ") + 1)}` },
    );
  }
  return count;
}
