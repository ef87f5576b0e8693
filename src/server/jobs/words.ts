import type { PersonId } from "@/core/id";
import { isHeavy } from "@/core/mail";
import { storable } from "@/core/text";
import type { Database, Transaction } from "../db";
import type { ParsePool, WordsItem } from "../parse";
import { peopleUnindexed, unindexed, writeWords, type Indexed } from "../search";
import { ownAddresses, tell, viaColumns } from "../store";
import { underLock } from "./lock";

/** First half of the two-part key of the locks on word indexes; the second is the person. */
const WORDS_LOCK = 72_241;
/** Messages read, parsed and written at a time. */
const BATCH = 300;

function indexedOf(
  { id, content }: Pick<Indexed, "id" | "content">,
  item: WordsItem,
  own: ReadonlySet<string>,
): Indexed {
  const { via, via_key: viaKey } = viaColumns(item.parsed, own);
  const { cc, file } = item.keys;
  return {
    id,
    content,
    vector: item.vector,
    ccKey: storable(cc),
    fileKey: storable(file),
    via: storable(via),
    viaKey: storable(viaKey),
  };
}

async function indexFor(db: Database, person: PersonId, pool: () => ParsePool, isOver: () => boolean): Promise<number> {
  const own = await ownAddresses(db.sql, person);
  let count = 0;
  for (;;) {
    const rows = isOver() ? [] : await unindexed(db.sql, person, BATCH);
    if (rows.length === 0) return count;
    const items = await pool().words(
      rows.map((row) => row.raw),
      rows.flatMap((row, i) => (isHeavy(row.flaws) ? [i] : [])),
      new Date(),
    );
    await db.sql.begin((tx) =>
      writeWords(
        tx as Transaction,
        person,
        rows.map((row, i) => indexedOf(row, items[i]!, own)),
      ),
    );
    count += rows.length;
    await tell(db.sql, person, "words");
  }
}

/**
 * Indexes the words of messages that came in, for everybody, until nothing is left or it is over. One process
 * at a time does so for a person.
 * @param makePool parsing threads, started only where there is something to parse
 * @returns how many messages
 */
export async function indexWords(db: Database, makePool: () => ParsePool, isOver: () => boolean): Promise<number> {
  let made: ParsePool | null = null;
  const pool = () => (made ??= makePool());
  let count = 0;
  try {
    for (const person of await peopleUnindexed(db.sql))
      count += (await underLock(db, WORDS_LOCK, person, () => indexFor(db, person, pool, isOver))) ?? 0;
  } finally {
    await (made as ParsePool | null)?.close();
  }
  return count;
}
