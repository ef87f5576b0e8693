import type { FilingMail } from "@/core/filing";
import { folderId, type FolderId } from "@/core/id";
import { parseMessage, readParts, textOf, viaOf } from "@/core/mail";
import { generate } from "../../demo/generate";
import { ALIASES, DOMAIN } from "../../demo/world";
import type { Filed, Habits } from "./habits";

/** The hut office's mail as it was filed, in the order it came. */

const NOT_FILED = new Set(["Inbox", "Sent", "Junk", "Archive", "Trash", "Drafts"]);
const MOST_TEXT = 4000;

export async function demoWorld(messages: number, seed: number): Promise<Habits> {
  const own = new Set(ALIASES.map((alias) => `${alias}@${DOMAIN}`));
  const world = [...generate({ messages, seed, now: new Date("2026-11-24T12:00:00Z") })]
    .filter(({ folder }) => !NOT_FILED.has(folder))
    .sort((a, b) => a.date.getTime() - b.date.getTime());
  const folders = new Map<string, FolderId>();
  /** Where the messages of a thread have been filed, by the ids of them. */
  const threads = new Map<string, Set<FolderId>>();
  const filed: Filed[] = [];
  for (const { folder: path, raw, date } of world) {
    const parsed = await parseMessage(raw, { now: date });
    const folder = folders.get(path) ?? folderId(folders.size + 1);
    folders.set(path, folder);
    const ids = [...parsed.references, ...(parsed.messageId === null ? [] : [parsed.messageId])];
    const known = ids.map((id) => threads.get(id)).find((there) => there !== undefined) ?? new Set<FolderId>();
    const mail: FilingMail = {
      from: parsed.from.address,
      to: [...parsed.to, ...parsed.cc].map(({ address }) => address).filter((address) => !own.has(address)),
      via: viaOf(parsed, own),
      list: parsed.list,
      subject: parsed.subject,
      words: [textOf((await readParts(raw)).email).slice(0, MOST_TEXT)],
      files: parsed.attachments,
      thread: [...known],
      dateMs: date.getTime(),
    };
    filed.push({ mail, folder, atMs: date.getTime() });
    known.add(folder);
    for (const id of ids) threads.set(id, known);
  }
  return { name: `the hut office, ${folders.size} folders`, filed, best: null };
}
