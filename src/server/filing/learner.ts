import { tellsMuch, type Lesson } from "@/core/filing";
import type { Role } from "@/core/place";
import { folderId, messageId, type FolderId, type MessageId, type PersonId } from "@/core/id";
import type { Database, Queryable, Transaction } from "../db";
import { listOf, tell } from "../store";
import { readFilingMails } from "./mails";
import { catchUp, emptyModel, METHOD, type Model } from "./model";

/**
 * Learns, behind whatever moved them, where messages are: what is learned follows from where mail is now and nothing
 * else, so that it does not matter who moved it or how often. A message that left the folder it was learned in is
 * unlearned to the last bit.
 */

/** Messages learned in one go; what a process loses that is ended in the middle. */
const AT_ONCE = 10_000;
/** Read at a time, between which others have their turn. */
const READ_AT_ONCE = 250;
/** So many learned at once are not told of one by one: the ranker is kept with them. */
const KEPT_FROM = 1000;
/** A journal longer than this makes reading it slower than reading the ranker. */
const LONGEST_JOURNAL = 2000;
/** What was filed so long ago and is trashed now was filed right: that it goes is tidying up. */
const TIDYING_AFTER_MS = 7 * 86_400_000;

/** What is put back so soon was taken back: it counts again as it did before. */
const COMES_BACK_DAYS = 30;

interface Due {
  message: MessageId;
  n: number;
  arrived: boolean;
  date_ms: number;
  since_ms: number;
  folder: FolderId;
  role: Role | null;
  learned: FolderId | null;
  learned_ms: number | null;
  receipt: string | null;
  /** What it taught where it is now, before it left there. */
  past: string | null;
}

interface Step {
  readonly by: 1 | -1;
  readonly message: MessageId;
  readonly receipt: Lesson;
  /** Where the message is that taught it. */
  readonly folder: FolderId;
  readonly atMs: number;
}

/**
 * Messages to look at, the oldest mail first; only those whose words are there. Mail that came in by its headers is
 * waited for; what a person does with it teaches at once.
 */
const readDue = (sql: Queryable, person: PersonId) => sql<Due[]>`
  select d.message, d.n, d.arrived, (extract(epoch from m.date) * 1000)::float8 as date_ms,
    (extract(epoch from s.folder_since) * 1000)::float8 as since_ms, s.folder, f.role,
    r.folder as learned,
    (extract(epoch from r.learned_at) * 1000)::float8 as learned_ms, r.receipt, p.receipt as past
  from (select message, max(n) as n, bool_or(arrived) as arrived, bool_and(arrived) as waits from filing_due
      where person = ${person} and message <= coalesce((select through from word_index where person = ${person}), 0)
      group by message) d
    join message m on m.person = ${person} and m.id = d.message
    join message_state s on s.person = ${person} and s.message = d.message
    join folder f on f.person = ${person} and f.id = s.folder
    left join filing_receipt r on r.person = ${person} and r.message = d.message and r.left_at is null
    left join filing_receipt p on p.person = ${person} and p.message = d.message and p.folder = s.folder
      and p.left_at > now() - ${COMES_BACK_DAYS} * interval '1 day'
    left join coming c on c.person = ${person} and c.content = m.content and c.account <> 0
  where c.content is null or not d.waits
  order by m.date, m.id limit ${AT_ONCE}`;

/** Roles of folders that say whether mail in them is wanted; in those without a role it belongs. */
const VERDICTS: readonly (Role | null)[] = [null, "archive", "junk"];

/** Where a message is, for what it teaches now; null for nothing. */
function placeOf({ role, folder, learned, learned_ms }: Due, nowMs: number): FolderId | null {
  if (VERDICTS.includes(role)) return folder;
  return role === "trash" && learned !== null && nowMs - learned_ms! > TIDYING_AFTER_MS ? learned : null;
}

/** Begins to learn, or begins anew where what is there was learned in another way. @returns the epoch */
async function begin(db: Database, person: PersonId): Promise<string> {
  const [row] = await db.sql<{ epoch: string }[]>`
    select epoch from filing where person = ${person} and method = ${METHOD}`;
  if (row) return row.epoch;
  await db.sql.begin((tx) => forget(tx as Transaction, person, true));
  return begin(db, person);
}

/** Forgets everything. @param anew whether it is learned again from the folders as they are */
export async function forget(tx: Transaction, person: PersonId, anew: boolean): Promise<void> {
  // First: whoever else forgets at the same time waits here.
  await tx`insert into filing (person, method) values (${person}, ${METHOD})
    on conflict (person) do update set epoch = gen_random_uuid(), method = excluded.method, kept = null, through = 0`;
  await tx`delete from filing_receipt where person = ${person}`;
  await tx`delete from filing_journal where person = ${person}`;
  await tx`delete from filing_due where person = ${person}`;
  if (anew)
    await tx`
      insert into filing_due (person, message, arrived)
      select s.person, s.message, true from message_state s
        join folder f on f.person = s.person and f.id = s.folder and (f.role is null or f.role in ('archive', 'junk'))
      where s.person = ${person} and s.sender <> 0`;
  await tell(tx, person, "filing");
}

async function write(
  tx: Transaction,
  person: PersonId,
  model: Model,
  steps: readonly Step[],
  seen: readonly Due[],
): Promise<void> {
  const [still] = await tx`select 1 from filing where person = ${person} and epoch = ${model.epoch} for update`;
  if (!still) throw new Error("what was learned has been forgotten meanwhile");
  const learned = steps.filter(({ by }) => by === 1);
  const gone = steps.filter(({ by }) => by === -1);
  if (gone.length > 0)
    await tx`
      update filing_receipt r set left_at = now()
      from unnest(${listOf(gone.map(({ message }) => message))}::text::bigint[]) as g(message)
      where r.person = ${person} and r.message = g.message and r.left_at is null`;
  if (learned.length > 0)
    await tx`
      insert into filing_receipt (person, message, folder, learned_at, receipt)
      select ${person}, (v->>0)::bigint, (v->>1)::int, to_timestamp((v->>2)::float8 / 1000), v->>3
      from jsonb_array_elements(${JSON.stringify(
        learned.map(({ message, receipt, folder, atMs }) => [message, folder, atMs, JSON.stringify(receipt)]),
      )}::text::jsonb) as e(v)
      on conflict (person, message, folder) do update
        set learned_at = excluded.learned_at, receipt = excluded.receipt, left_at = null`;
  const [journal] = await tx<{ n: number }[]>`
    select count(*)::int as n from filing_journal where person = ${person}`;
  if (steps.length >= KEPT_FROM || journal!.n + steps.length > LONGEST_JOURNAL) {
    const [row] = await tx<{ n: number }[]>`select nextval('filing_journal_n_seq')::int as n`;
    await tx`
      update filing set kept = ${JSON.stringify(model.taught)}, through = ${row!.n} where person = ${person}`;
    await tx`delete from filing_journal where person = ${person}`;
    model.through = row!.n;
  } else {
    const rows = await tx<{ n: number }[]>`
      insert into filing_journal (person, by, receipt)
      select ${person}, (v->>0)::int, v->>1
      from jsonb_array_elements(${JSON.stringify(
        steps.map(({ by, receipt }) => [by, JSON.stringify(receipt)]),
      )}::text::jsonb) with ordinality as e(v, place) order by place
      returning n`;
    model.through = rows.at(-1)!.n;
  }
  await done(tx, person, seen);
  // Whoever archives message after message is not to have everything in sight guessed anew after each.
  if (steps.some(({ receipt }) => tellsMuch(receipt))) await tell(tx, person, "filing");
}

/** What was noted again since it was read stays noted. */
const done = (sql: Queryable, person: PersonId, seen: readonly Due[]) => sql`
  delete from filing_due d using unnest(${listOf(seen.map(({ message }) => message))}::text::bigint[],
    ${listOf(seen.map(({ n }) => n))}::text::bigint[]) as s(message, n)
  where d.person = ${person} and d.message = s.message and d.n <= s.n`;

export class Learner {
  private readonly models = new Map<PersonId, Model>();

  constructor(private readonly db: Database) {}

  private async model(person: PersonId): Promise<Model> {
    const epoch = await begin(this.db, person);
    let model = this.models.get(person);
    if (model?.epoch !== epoch) this.models.set(person, (model = emptyModel(epoch)));
    await catchUp(this.db.sql, person, model);
    return model;
  }

  private async steps(person: PersonId, { taught }: Model, seen: readonly Due[], nowMs: number): Promise<Step[]> {
    const steps: Step[] = [];
    for (let at = 0; at < seen.length; at += READ_AT_ONCE) {
      const some = seen.slice(at, at + READ_AT_ONCE);
      const wanted = some.filter((one) => VERDICTS.includes(one.role) && one.folder !== one.learned);
      const mails = await readFilingMails(
        this.db.sql,
        person,
        wanted.map(({ message }) => message),
      );
      for (const one of some) {
        const place = placeOf(one, nowMs);
        if (place === one.learned) continue;
        const message = messageId(one.message);
        if (one.receipt !== null) {
          const receipt = JSON.parse(one.receipt) as Lesson;
          taught.unlearn(receipt);
          steps.push({ by: -1, message, receipt, folder: one.learned!, atMs: nowMs });
        }
        const mail = place === null ? undefined : mails.get(message);
        if (!mail) continue;
        const atMs = one.arrived ? one.date_ms : one.since_ms;
        const past = one.past === null ? null : (JSON.parse(one.past) as Lesson);
        if (past) taught.relearn(past);
        const folder = folderId(place!);
        const receipt = past ?? taught.learn(mail, one.role === null ? folder : null, one.role === "junk", atMs);
        steps.push({ by: 1, message, receipt, folder, atMs });
      }
    }
    return steps;
  }

  /** Messages that were deleted for good are not looked at any more, and what was left long ago is not put back. */
  private async letGo(person: PersonId): Promise<void> {
    await this.db.sql`
      delete from filing_due d where d.person = ${person}
        and not exists (select from message m where m.person = d.person and m.id = d.message)`;
    await this.db.sql`
      delete from filing_receipt
      where person = ${person} and left_at < now() - ${COMES_BACK_DAYS} * interval '1 day'`;
  }

  /**
   * Learns what is due of one person, all of it or until it is over. One process at a time does so for a person.
   * @returns how many messages were looked at
   */
  async learn(person: PersonId, now: Date, isOver: () => boolean): Promise<number> {
    let count = 0;
    await begin(this.db, person);
    for (;;) {
      const seen = isOver() ? [] : await readDue(this.db.sql, person);
      if (seen.length === 0) {
        await this.letGo(person);
        return count;
      }
      try {
        const model = await this.model(person);
        const steps = await this.steps(person, model, seen, now.getTime());
        if (steps.length === 0) await done(this.db.sql, person, seen);
        else await this.db.sql.begin((tx) => write(tx as Transaction, person, model, steps, seen));
      } catch (error) {
        // What it holds is no longer what is stored.
        this.models.delete(person);
        throw error;
      }
      count += seen.length;
    }
  }
}
