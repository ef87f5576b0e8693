import type { SenderShape } from "@/core/api";
import type { Aside, Leaving } from "@/core/change";
import { STATE_BIT } from "@/core/columns";
import { asideOffer } from "@/core/filing";
import { TRAIT, writeEquals } from "@/core/narrow";
import type { Context } from "./context";

/** Who fills the mailbox: every list, and every sender that writes more than a few a month. */

/** Months that are looked at, this one among them. */
const MONTHS = 12;
/** Of what was never read, the last so many months tell what would be gained. */
const LATELY = 3;
/** Days after which a message that was to be read is. */
const RIPE_DAYS = 3;
/** Somebody who wrote less in a year is no reason to do anything. */
const LEAST = 3;
const MOST = 400;

interface Row {
  source: string;
  name: string;
  address: string;
  senders: number;
  newest: number;
  months: number[];
  total: number;
  read: number;
  answered: number;
  trashed: number;
  inbox: number;
  ripe: number;
  ripe_read: number;
  ripe_trashed: number;
  written_to: boolean;
  aside: Aside | null;
  unread_lately: number;
  read_ms: number | null;
  bytes: number;
  blocked: boolean;
  state: Leaving["state"] | null;
  how: Leaving["how"];
  target: string;
  left_ms: number;
  said: string | null;
  since: number;
}

/** What would be gained most stands first: messages a month that are never read. */
export async function listSenders({ db, person, zone }: Context): Promise<SenderShape[]> {
  const { sql } = db;
  const month = (n: number) => sql`count(*) filter (where ago = ${n})::int`;
  const counts = Array.from({ length: MONTHS }, (_, i) => month(MONTHS - 1 - i));
  const months = counts.reduce((all, one) => sql`${all}, ${one}`);
  const rows = await sql<Row[]>`
    with mail as (
      select m.id, case when m.list <> '' then 'list ' || lower(m.list) else 'sender ' || lower(m.from_address) end as source,
        m.from_name, lower(m.from_address) as address, m.date, m.size, m.traits, f.role,
        s.bits & ${STATE_BIT.read} <> 0 as is_read,
        -- Whose clock is ahead, at the end of a month say, writes in this one.
        greatest(0, (extract(year from now() at time zone ${zone}) - extract(year from m.date at time zone ${zone})) * 12
          + extract(month from now() at time zone ${zone}) - extract(month from m.date at time zone ${zone}))::int as ago
      from message m join message_state s on s.person = m.person and s.message = m.id
        join folder f on f.person = s.person and f.id = s.folder
      where m.person = ${person} and s.sender <> 0 and m.from_address <> '' and f.role is distinct from 'junk'
        and m.date > now() - ${MONTHS + 1} * interval '1 month')
    select mail.source, (array_agg(from_name order by date desc))[1] as name, (array_agg(mail.address order by date desc))[1] as address,
      count(distinct mail.address)::int as senders, max(id) as newest, array[${months}] as months, count(*)::int as total, count(*) filter (where is_read)::int as read,
      count(*) filter (where traits & ${TRAIT.answered} <> 0)::int as answered,
      count(*) filter (where role = 'trash' and not is_read)::int as trashed,
      count(*) filter (where role = 'inbox')::int as inbox,
      count(*) filter (where date < now() - ${RIPE_DAYS} * interval '1 day')::int as ripe,
      count(*) filter (where date < now() - ${RIPE_DAYS} * interval '1 day' and is_read)::int as ripe_read,
      count(*) filter (where date < now() - ${RIPE_DAYS} * interval '1 day' and not is_read and role = 'trash')::int as ripe_trashed,
      bool_or(w.address is not null) as written_to,
      max(a.state) as aside,
      count(*) filter (where not is_read and ago between 0 and ${LATELY - 1})::int as unread_lately,
      (extract(epoch from max(date) filter (where is_read)) * 1000)::float8 as read_ms, sum(size)::float8 as bytes,
      exists (select from blocked b where b.person = ${person} and b.address in (
        (array_agg(mail.address order by date desc))[1], '@' || split_part((array_agg(mail.address order by date desc))[1], '@', -1))) as blocked,
      max(l.state) as state, max(l.how) as how, max(l.target) as target, (extract(epoch from max(l.at)) * 1000)::float8 as left_ms,
      max(l.said) as said, count(*) filter (where l.state = 'left' and date > l.at)::int as since
    from mail left join leaving l on l.person = ${person} and l.source = mail.source
      left join aside a on a.person = ${person} and a.source = mail.source
      left join written_to w on w.person = ${person} and w.address = mail.address
    where ago between 0 and ${MONTHS - 1} group by mail.source having count(*) >= ${LEAST}
    order by unread_lately desc, total desc, mail.source limit ${MOST}`;
  return rows.map(({ ripe, ripe_read, ripe_trashed, written_to, ...more }) => {
    const fate = { ripe, read: ripe_read, trashedUnread: ripe_trashed, writtenTo: written_to };
    const { source, read_ms, unread_lately, trashed, state, how, target, left_ms, said, since, ...row } = more;
    const isList = source.startsWith("list ");
    return {
      ...row,
      offer: row.aside === null && !row.blocked ? asideOffer(fate) : null,
      source,
      isList,
      // Of several who write to a list, none is the list.
      name: (row.senders > 1 ? source.slice(5) : row.name) || row.address,
      trashedUnread: trashed,
      unreadMonthly: Math.round((unread_lately / LATELY) * 10) / 10,
      lastRead: read_ms === null ? null : new Date(read_ms).toISOString(),
      leaving:
        state === null
          ? null
          : { state, how, page: how === "page" ? target : null, at: new Date(left_ms).toISOString(), said, since },
      narrow: isList ? writeEquals("list", source.slice(5)) : writeEquals("from", row.address),
    };
  });
}
