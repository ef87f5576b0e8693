import type { PersonId } from "@/core/id";
import type { Parsed } from "@/core/mail";
import { storable } from "@/core/text";
import type { Transaction } from "../db";

type Sent = Pick<Parsed, "from" | "to" | "cc" | "date">;

/** Notes whom the person's own messages went to, for completing addresses. @param own in lower case */
export async function noteWrittenTo(
  tx: Transaction,
  person: PersonId,
  own: ReadonlySet<string>,
  messages: readonly Sent[],
): Promise<void> {
  const people = new Map<string, { address: string; name: string; times: number; last: string }>();
  for (const { from, to, cc, date } of messages) {
    if (!own.has(from.address.toLowerCase())) continue;
    for (const { name, address } of [...to, ...cc]) {
      const key = storable(address.toLowerCase());
      if (!key.includes("@")) continue;
      const met = people.get(key);
      const last = date.toISOString();
      people.set(key, {
        address: key,
        name: storable(name) || (met?.name ?? ""),
        times: (met?.times ?? 0) + 1,
        last: met && met.last > last ? met.last : last,
      });
    }
  }
  if (people.size === 0) return;
  await tx`
    insert into written_to (person, address, name, times, last)
    select ${person}, address, name, times, last
    from jsonb_to_recordset(${JSON.stringify([...people.values()])}::text::jsonb) as w(address text, name text, times int, last timestamptz)
    on conflict (person, address) do update set times = written_to.times + excluded.times,
      last = greatest(written_to.last, excluded.last),
      name = case when excluded.name = '' then written_to.name else excluded.name end`;
}
