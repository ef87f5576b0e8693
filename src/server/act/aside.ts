import type { z } from "zod";
import type { asideRequest } from "@/core/api";
import { changeOf, changeOfMessages, type Aside, type MessageEdit, type ThingEdit } from "@/core/change";
import { messageId, type MessageId } from "@/core/id";
import { TRAIT } from "@/core/narrow";
import { folderFor } from "@/core/place";
import { cut, plural } from "@/core/text";
import { inTurn, readDirectory, Refusal } from "../run";
import { readThings } from "../store";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

/** Lets mail of lists and senders stand aside from now on, with what of it is in the inbox; or no more, and back there. */
export async function standAside(
  context: Context,
  { sources: asked, aside }: z.infer<typeof asideRequest>,
): Promise<void> {
  const { db, person } = context;
  const sources = [...new Set(asked.map((source) => source.toLowerCase()))];
  const bad = sources.find((source) => !/^(list|sender) ./.test(source));
  if (bad !== undefined) throw new Refusal(422, "No such sender", `"${bad}" is neither a list nor a sender.`);
  await inTurn(db, person, async (tx, seq) => {
    const directory = await readDirectory(tx, person);
    const [inbox, place] = [folderFor(directory, "inbox")!.id, folderFor(directory, "aside")?.id];
    if (place === undefined) throw new Refusal(409, "No folder for it", "No folder serves as the place aside.");
    const [from, to] = aside ? [inbox, place] : [place, inbox];
    const after: Aside = aside ? "aside" : "declined";
    const wanted = sources.map((key): ThingEdit => ({ kind: "aside", key, about: null, before: null, after }));
    const stored = await readThings(tx, person, changeOf([], wanted));
    const edits = wanted.flatMap((edit) => {
      const before = stored(edit) as Aside | null;
      return before === after ? [] : [{ ...edit, before } as ThingEdit];
    });
    const rows = await tx<{ id: number }[]>`
      select m.id from message m join message_state s on s.person = m.person and s.message = m.id
      where m.person = ${person} and s.folder = ${from} and m.traits & ${TRAIT.mine} = 0
        and case when m.list <> '' then 'list ' || lower(m.list) else 'sender ' || lower(m.from_address) end
          = any(${sources}::text[])`;
    const moved = rows.map(({ id }): [MessageId, MessageEdit[]] => [
      messageId(id),
      [{ kind: "folder", before: from, after: to }],
    ]);
    const names = sources.map((source) => source.slice(source.indexOf(" ") + 1));
    await writeByHand(tx, context, seq, changeOfMessages(moved, edits), {
      name: `${aside ? "Aside" : "Aside no more"}: ${names.length === 1 ? names[0]! : plural(names.length, "sender")}`,
      about: cut(names.join(", "), 200),
      messages: moved.length,
    });
  });
}
