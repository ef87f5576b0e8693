import type { z } from "zod";
import type { LeaveAnswer, leaveRequest } from "@/core/api";
import { changeOf, type Leaving, type ThingEdit } from "@/core/change";
import { cut, plural } from "@/core/text";
import { inTurn } from "../run";
import { readThings, readWays, type SourceWays } from "../store";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

/** Leaving lists: by one request where they allow that, else by a letter, else a person has to look at a page. */

const wayOf = ({ account, ways: { click, letter } }: SourceWays): Leaving | null => {
  if (click !== null) return { how: "click", target: click, account, state: "waiting" };
  return letter && { how: "letter", target: letter.to, account, state: "waiting" };
};

/** Asks lists and senders to send nothing more. What is still held back is taken back like any letter. */
export async function leaveSenders(context: Context, body: z.infer<typeof leaveRequest>): Promise<LeaveAnswer> {
  const { db, person } = context;
  const sources = [...new Set(body.sources.map((source) => source.toLowerCase()))];
  const all = await readWays(db.sql, person, sources);
  const wanted = all.flatMap((one): ThingEdit[] => {
    const after = wayOf(one);
    return after ? [{ kind: "leaving", key: one.source, about: null, before: null, after }] : [];
  });
  const edits = await inTurn(db, person, async (tx, seq) => {
    const stored = await readThings(tx, person, changeOf([], wanted));
    // Who was asked already is not asked twice unless that failed.
    const asked = wanted.flatMap((edit): ThingEdit[] => {
      const before = stored(edit) as Leaving | null;
      return before && before.state !== "refused" ? [] : [{ ...edit, before } as ThingEdit];
    });
    const names = asked.map(({ key }) => key.slice(key.indexOf(" ") + 1));
    if (asked.length > 0)
      await writeByHand(tx, context, seq, changeOf([], asked), {
        name: `Leave ${names.length === 1 ? names[0]! : plural(names.length, "list")}`,
        about: cut(names.join(", "), 200),
        messages: 0,
      });
    return asked;
  });
  const by = (how: Leaving["how"]) =>
    edits.flatMap((edit) => (edit.kind === "leaving" && edit.after?.how === how ? [edit.key] : []));
  const open = all.filter((one) => wayOf(one) === null);
  const found = new Set(all.map(({ source }) => source));
  return {
    asked: by("click"),
    written: by("letter"),
    pages: open.flatMap(({ source, ways: { page } }) => (page === null ? [] : [{ source, page }])),
    none: [
      ...open.filter(({ ways }) => ways.page === null).map(({ source }) => source),
      ...sources.filter((source) => !found.has(source)),
    ],
  };
}
