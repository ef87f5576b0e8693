import { decodeIndex, encodeIndex, type Index } from "@/core/columns";

/**
 * The mailbox's index between visits, in the browser's own file system. It is kept by the mailbox's token, so
 * that one mailbox is never shown in the place of another. Whatever goes wrong here only costs time: the index
 * is read from the server then.
 */
const fileName = (token: string): string => `index-${token}`;

export async function readKept(token: string): Promise<Index | null> {
  try {
    const folder = await navigator.storage.getDirectory();
    const file = await (await folder.getFileHandle(fileName(token))).getFile();
    return decodeIndex(await file.arrayBuffer());
  } catch {
    return null;
  }
}

/** Puts it in the place of what was kept, all at once; other mailboxes' are given up. */
export async function keepIndex(token: string, index: Index): Promise<void> {
  try {
    const folder = await navigator.storage.getDirectory();
    const out = await (await folder.getFileHandle(fileName(token), { create: true })).createWritable();
    await out.write(encodeIndex(index) as Uint8Array<ArrayBuffer>);
    await out.close();
    // Chromium's type of a folder lacks the walk over its names.
    for await (const name of (folder as unknown as { keys(): AsyncIterable<string> }).keys())
      if (name.startsWith("index-") && name !== fileName(token)) await folder.removeEntry(name);
  } catch {
    // No file system, or no room: next time the index comes from the server again.
  }
}
