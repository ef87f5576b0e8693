import { foldedOf, hitsIn, textAt, textOf, type ColumnCursor, type Columns } from "@/core/columns";
import { domainOf, guessFrom, rankFrom, type Filed } from "@/core/filing";
import type { FolderId } from "@/core/id";
import type { Facts } from "@/core/macro";
import { fold, TRAIT } from "@/core/narrow";

/**
 * What the columns know of the message in a row. Its words are the server's to read.
 * @param cursor over these columns; shared, since it keeps what it has folded
 */
export function factsAt(columns: Columns, cursor: ColumnCursor, row: number): Facts {
  return {
    fromName: textAt(columns, "fromName", row),
    fromAddress: textAt(columns, "fromAddress", row),
    subject: textAt(columns, "subject", row),
    list: textAt(columns, "list", row),
    account: columns.account[row]!,
    dateMs: columns.dateMs[row]!,
    size: columns.size[row]!,
    traits: columns.traits[row]!,
    text: (field) => {
      cursor.row = row;
      return cursor.text(field);
    },
    body: null,
  };
}

/** More folders than a person will ever have: sender and folder as one number. */
const MOST_FOLDERS = 2 ** 20;

const addressIn = (sender: string): string => sender.slice(sender.indexOf("\t") + 1);

/** Who is at a domain, for as long as the texts of a column stay what they are. */
const found = new WeakMap<object, Map<string, readonly number[]>>();

/** The texts of the sender column that are of somebody at a domain, by their numbers. */
function sendersAt(columns: Columns, domain: string): readonly number[] {
  const { sender } = columns.texts;
  let domains = found.get(sender);
  if (!domains) found.set(sender, (domains = new Map()));
  let senders = domains.get(domain);
  if (senders) return senders;
  const needle = fold(domain).trim();
  const hits = needle === "" ? sender.ends.map(() => 1) : hitsIn(foldedOf(columns, "sender"), needle, false);
  senders = [...hits.keys()].filter((n) => hits[n] && domainOf(addressIn(textOf(sender, n))) === domain);
  domains.set(domain, senders);
  return senders;
}

/**
 * How many messages of each sender are in each folder.
 * @param own folders that mail is filed into
 * @param domain where the senders are that are counted; all are, where none is given
 */
function filedIn(columns: Columns, own: ReadonlySet<number>, domain?: string): Filed[] {
  const { index, ends } = columns.texts.sender;
  const wanted = domain === undefined ? null : new Uint8Array(ends.length);
  if (wanted) for (const n of sendersAt(columns, domain!)) wanted[n] = 1;
  const counts = new Map<number, { row: number; messages: number }>();
  for (let row = 0; row < columns.count; row++) {
    if (wanted && !wanted[index[row]!]) continue;
    const folder = columns.folder[row]!;
    if (!own.has(folder) || columns.traits[row]! & TRAIT.mine) continue;
    const key = index[row]! * MOST_FOLDERS + folder;
    const count = counts.get(key);
    if (count) count.messages++;
    else counts.set(key, { row, messages: 1 });
  }
  return [...counts.values()].map(({ row, messages }) => ({
    address: textAt(columns, "fromAddress", row),
    folder: columns.folder[row]! as FolderId,
    messages,
  }));
}

/** Counting the whole mailbox costs as much as looking up so many domains. */
const MOST_LOOKED_UP = 60;

/**
 * The folder guess, from where mail is now. A pad shows it whenever the focus rests, so for a few senders only
 * mail of their domains is counted.
 * @param own folders that mail is filed into
 */
export function guessOf(columns: Columns, own: ReadonlySet<number>): (facts: Facts) => FolderId | null {
  const known = new Map<string, ReturnType<typeof guessFrom>>();
  let whole: ReturnType<typeof guessFrom> | undefined;
  return ({ fromAddress }) => {
    const domain = domainOf(fromAddress);
    let guess = known.get(domain) ?? whole;
    if (!guess) {
      if (known.size < MOST_LOOKED_UP) known.set(domain, (guess = guessFrom(filedIn(columns, own, domain))));
      else guess = whole = guessFrom(filedIn(columns, own));
    }
    return guess(fromAddress);
  };
}

/** Folders that mail of a sender may be meant for, the likeliest first. */
export const likelyFolders = (columns: Columns, own: ReadonlySet<number>, address: string): FolderId[] =>
  rankFrom(filedIn(columns, own, domainOf(address)))(address);
