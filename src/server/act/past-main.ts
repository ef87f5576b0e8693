import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { changeOfMessages } from "@/core/change";
import { messageId, runId } from "@/core/id";
import { folderFor } from "@/core/place";
import { cut } from "@/core/text";
import { openDatabase } from "../db";
import { beginAgain } from "../pace";
import { inTurn, readDirectory, readMacros, readNames } from "../run";
import { appendEntry, takeTurn } from "../store";
import { personOf } from "./context";

/**
 * `past FILE`: notes in the ledger who put mail where it is, for a demo that has a past. The file is a list of
 * {at, hand, folder, messages}, the messages by their Message-IDs, and the oldest first.
 */
interface PastRun {
  readonly at: string;
  readonly hand: "key" | "swipe";
  readonly folder: string;
  readonly messages: readonly string[];
}

const LONGEST_ABOUT = 200;

const url = process.env.DATABASE_URL;
const [file] = process.argv.slice(2);
if (!url || !file) throw new Error("usage: DATABASE_URL=… past FILE");
const runs = JSON.parse(readFileSync(file, "utf8")) as PastRun[];
const db = openDatabase(url, 2);
const { person } = (await personOf(db, null))!;

const written = await inTurn(db, person, async (tx, first) => {
  const directory = await readDirectory(tx, person);
  const { nameOf } = await readNames(tx, person);
  const macros = await readMacros(tx, person, nameOf);
  const inbox = folderFor(directory, "inbox")!;
  const rows = await tx<{ id: number; message_id: string; folder: number; subject: string }[]>`
    select m.id, m.message_id, s.folder, m.subject from message m join message_state s on s.person = m.person and s.message = m.id
    where m.person = ${person} and m.message_id is not null`;
  const known = new Map(rows.map((row) => [row.message_id, row]));
  let [count, seq] = [0, first];
  for (const { at, hand, folder: path, messages } of runs) {
    const folder = directory.folders.find((one) => one.path === path);
    // What has been put elsewhere since was not put there last.
    const here = messages.flatMap((id) => known.get(id) ?? []).filter((row) => row.folder === folder?.id);
    if (!folder || here.length === 0) continue;
    const edit = { kind: "folder", before: inbox.id, after: folder.id } as const;
    const change = changeOfMessages(here.map(({ id }) => [messageId(id), [edit]]));
    const macro = macros.find(({ name }) => name === path);
    await appendEntry(
      tx,
      person,
      {
        seq,
        id: runId(randomUUID()),
        kind: "run",
        actor: "person",
        cause: null,
        hand,
        at: new Date(at),
        of: null,
        macro: macro?.id ?? null,
        name: macro?.name ?? `To ${path}`,
        steps: macro?.steps ?? [{ do: "move", to: path }],
        about: here.length === 1 ? cut(here[0]!.subject, LONGEST_ABOUT) : `${here.length} from Inbox`,
        messages: here.length,
        skipped: [],
      },
      change,
    );
    count += here.length;
    seq = await takeTurn(tx, person);
  }
  await beginAgain(tx, person);
  return count;
});
console.error(`${written} messages were decided before`);
await db.close();
