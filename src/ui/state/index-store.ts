import { decodeIndex, encodeIndex, mergeColumns, withoutMessages, type Columns, type Index } from "@/core/columns";

/**
 * The mailbox's index between visits, in the browser's own file system: all of it as it was once, and beside it what
 * has changed since, which is small and written often. It is kept by the mailbox's token, so that one mailbox is
 * never shown in the place of another. Whatever goes wrong here only costs time: the index is read from the server
 * then.
 */
const PREFIX = "index-";
const fileName = (token: string): string => `${PREFIX}${token}`;
/** What has changed since a whole index goes with that one only. */
const sinceName = (token: string, base: number): string => `${fileName(token)}-since-${base}`;

export interface KeptIndex {
  readonly index: Index;
  /** When it was as it is, milliseconds since 1970. */
  readonly at: number;
}

async function read(name: string): Promise<KeptIndex | null> {
  try {
    const folder = await navigator.storage.getDirectory();
    const file = await (await folder.getFileHandle(name)).getFile();
    return { index: decodeIndex(await file.arrayBuffer()), at: file.lastModified };
  } catch {
    return null;
  }
}

async function write(name: string, index: Index): Promise<FileSystemDirectoryHandle> {
  const folder = await navigator.storage.getDirectory();
  const out = await (await folder.getFileHandle(name, { create: true })).createWritable();
  await out.write(encodeIndex(index) as Uint8Array<ArrayBuffer>);
  await out.close();
  return folder;
}

/** Removes what is kept, but for one file. */
async function tidy(folder: FileSystemDirectoryHandle, but: string | null): Promise<void> {
  // Chromium's type of a folder lacks the walk over its names.
  for await (const name of (folder as unknown as { keys(): AsyncIterable<string> }).keys())
    if (name.startsWith(PREFIX) && name !== but) await folder.removeEntry(name);
}

export const readKept = (token: string): Promise<KeptIndex | null> => read(fileName(token));

/** What changed since the whole index of that write; null where nothing was kept of it. */
export const readSince = (token: string, base: number): Promise<KeptIndex | null> => read(sinceName(token, base));

/** Puts it in the place of what was kept, all at once; other mailboxes' are given up. */
export async function keepIndex(token: string, index: Index): Promise<void> {
  try {
    await tidy(await write(fileName(token), index), fileName(token));
  } catch {
    // No file system, or no room: next time the index comes from the server again.
  }
}

/** Keeps what has changed since the whole index of that write. */
export async function keepSince(token: string, base: number, news: Index): Promise<void> {
  try {
    await write(sinceName(token, base), news);
  } catch {
    // Without it, what is shown without a connection is older, and says so.
  }
}

/** An index with what has changed since. */
export function withNews(columns: Columns, { gone, columns: changed }: Index): Columns {
  const left = gone.length > 0 ? withoutMessages(columns, new Set(gone)) : columns;
  return changed.count > 0 ? mergeColumns(left, changed) : left;
}

/** Gives up all indexes. */
export async function emptyIndexes(): Promise<void> {
  try {
    await tidy(await navigator.storage.getDirectory(), null);
  } catch {
    // Nothing is kept here.
  }
}
