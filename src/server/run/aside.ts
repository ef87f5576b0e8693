import type { MessageEdit } from "@/core/change";
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
  const rows = await tx<{ id: number; source: string }[]>`
    select m.id, a.source from unnest(${listOf(arrived)}::text::bigint[]) n
      join message m on m.person = ${person} and m.id = n
      join aside a on a.person = m.person and a.state = 'aside' and a.source =
        case when m.list <> '' then 'list ' || lower(m.list) else 'sender ' || lower(m.from_address) end
    where m.traits & ${TRAIT.mine} = 0 and not (m.list = '' and exists (
      select from written_to w where w.person = m.person and w.address = lower(m.from_address)))`;
  const bySource = new Map<string, number[]>();
  for (const { id, source } of rows) bySource.set(source, [...(bySource.get(source) ?? []), id]);
  let count = 0;
  for (const [source, ids] of bySource) {
    const states = await readStates(tx, person, ids.map(messageId));
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
