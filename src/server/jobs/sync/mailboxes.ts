import type { FolderId } from "@/core/id";
import { folderFor, folderNamed, type Directory, type Folder } from "@/core/place";
import type { Transaction } from "../../db";
import { Refused, type MailboxState, type RemoteMailbox } from "../../gateway";
import { inTurn, makePlace, placeName, readDirectory } from "../../run";
import { boxesOf, type Box, type Round } from "./context";

/** Mailboxes of the server and places of the person's: which is which. */

/** Letters that are being written, and those on their way, are here only. */
const HERE_ONLY = new Set(["drafts", "outbox"]);
export const isMirrored = ({ role }: Pick<Folder, "role">): boolean => role === null || !HERE_ONLY.has(role);

/** The place a mailbox is: of its role, of its name, or a new one. One that another mailbox is already is not given twice. */
async function placeFor(
  tx: Transaction,
  round: Round,
  { place, role }: RemoteMailbox,
  directory: Directory,
  taken: ReadonlySet<number>,
): Promise<FolderId> {
  const path = placeName(place);
  const known = [role === null ? undefined : folderFor(directory, role), folderNamed(directory, path)];
  const free = known.find((folder) => folder !== undefined && isMirrored(folder) && !taken.has(folder.id));
  if (free) return free.id;
  let name = path;
  for (let n = 2; folderNamed(directory, name); n++) name = `${path} ${n}`;
  return makePlace(tx, round.account.person, name);
}

/** A mailbox as it is here, and as its server said it is. */
export interface Listed {
  readonly box: Box;
  /** Null where the server said nothing of it. */
  readonly state: MailboxState | null;
}

/**
 * Brings the list of mailboxes up to date. Messages of a mailbox that is gone are looked for elsewhere.
 * @returns all of them, the inbox first
 */
export async function matchMailboxes(round: Round): Promise<Listed[]> {
  const { db, account, imap } = round;
  const { person, id } = account;
  const listed = await imap.mailboxStates();
  const remote = listed.filter(({ path, role }) => role !== "drafts" && !account.without.includes(path));
  // There is an inbox always: a server that lists nothing says so by mistake, and all mail would seem to be gone.
  if (!listed.some(({ role }) => role === "inbox")) throw new Refused("The IMAP server lists no inbox.");
  const states = new Map(remote.map(({ path, state }) => [path, state]));
  const withStates = (boxes: readonly Box[]): Listed[] =>
    boxes.map((box) => ({ box, state: states.get(box.path) ?? null }));
  const known = await boxesOf(round);
  const paths = new Set(remote.map(({ path }) => path));
  const there = await readDirectory(db.sql, person);
  const isPlace = (box: Box) => there.folders.some((folder) => folder.id === box.folder);
  const fresh = remote.filter(({ path }) => !known.some((box) => box.path === path && isPlace(box)));
  const gone = known.filter((box) => !paths.has(box.path));
  if (fresh.length === 0 && gone.length === 0) return withStates(known);
  await inTurn(db, person, async (tx) => {
    for (const box of gone) {
      await tx`update placement set uid = null where person = ${person} and mailbox = ${box.id}`;
      await tx`delete from mailbox where person = ${person} and id = ${box.id}`;
    }
    const taken = new Set<number>(
      known.filter((box) => !gone.includes(box) && isPlace(box)).map(({ folder }) => folder),
    );
    // Those with a role come first: what is only named like one gives way.
    for (const mailbox of [...fresh].sort((a, b) => Number(a.role === null) - Number(b.role === null))) {
      const folder = await placeFor(tx, round, mailbox, await readDirectory(tx, person), taken);
      taken.add(folder);
      await tx`
        insert into mailbox (person, account, path, folder) values (${person}, ${id}, ${mailbox.path}, ${folder})
        on conflict (person, account, path) do update set folder = excluded.folder`;
    }
  });
  return withStates(await boxesOf(round));
}

/** The mailbox a place is on the server; made when the first message goes there. @returns null for places that are here only */
export async function mailboxFor(
  round: Round,
  folder: number,
  directory: Directory,
  boxes: readonly Box[],
): Promise<Box | null> {
  const known = boxes.find((box) => box.folder === folder);
  if (known) return known;
  const place = directory.folders.find((one) => one.id === folder);
  if (!place || !isMirrored(place)) return null;
  const { db, account, imap } = round;
  // A folder that is left alone on the server is a place that is here only.
  if (account.without.includes(imap.pathOf(place.path))) return null;
  const path = await imap.create(place.path);
  const state = await imap.state(path);
  // What lies in it, if it was there already, is taken in like anything else.
  await db.sql`
    insert into mailbox (person, account, path, folder, validity, modseq)
    values (${account.person}, ${account.id}, ${path}, ${folder}, ${state.validity}, ${state.modseq})
    on conflict (person, account, path) do update set folder = excluded.folder`;
  return (await boxesOf(round)).find((box) => box.path === path) ?? null;
}
