import { randomUUID } from "node:crypto";
import type { z } from "zod";
import type { LeaveAnswer, leaveRequest } from "@/core/api";
import { changeOf, type Leaving, type ThingEdit } from "@/core/change";
import { docOfText } from "@/core/letter";
import { leaveHeaders, leaveWays, type LeaveWays } from "@/core/mail";
import { cut, plural } from "@/core/text";
import type { Queryable } from "../db";
import { inTurn } from "../run";
import type { PersonId } from "@/core/id";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";
import { createDraft, sendDraft } from "./drafts";

/** Leaving lists: by one request where they allow that, else by a letter, else a person has to look at a page. */

/** Of a source, so much is looked at for its headers. */
const HEAD_BYTES = 64 * 1024;

interface Way {
  readonly source: string;
  readonly account: number;
  readonly ways: LeaveWays;
}

/** What the newest messages of sources say about leaving them. */
async function waysOf(sql: Queryable, person: PersonId, sources: readonly string[]): Promise<Way[]> {
  const rows = await sql<{ source: string; account: number; head: Uint8Array }[]>`
    select s.source, m.account, substring(c.raw from 1 for ${HEAD_BYTES}) as head
    from unnest(${[...sources]}::text[]) as s(source)
      join lateral (
        select m.account, m.content from message m
          join message_state t on t.person = m.person and t.message = m.id and t.sender <> 0
        where m.person = ${person} and case when s.source like 'list %' then lower(m.list) = substring(s.source from 6)
          else lower(m.from_address) = substring(s.source from 8) and m.list = '' end
        order by m.date desc, m.id desc limit 1) m on true
      join content c on c.person = ${person} and c.id = m.content`;
  return rows.map(({ source, account, head }) => ({
    source,
    account,
    ways: leaveWays(...leaveHeaders(Buffer.from(head).toString("latin1"))),
  }));
}

/** The edits that ask for it; who was asked already is not asked twice unless that failed. */
function editsOf(ways: readonly Way[], known: ReadonlyMap<string, Leaving>): ThingEdit[] {
  return ways.flatMap(({ source, account, ways: { click, letter } }): ThingEdit[] => {
    const before = known.get(source) ?? null;
    if (before && before.state !== "refused") return [];
    const after: Leaving | null =
      click !== null
        ? { how: "click", target: click, account, state: "waiting" }
        : letter && { how: "letter", target: letter.to, account, state: "left" };
    return after ? [{ kind: "leaving", key: source, about: null, before, after }] : [];
  });
}

/** Asks lists and senders to send nothing more. What is still held back is taken back like any letter. */
export async function leaveSenders(context: Context, body: z.infer<typeof leaveRequest>): Promise<LeaveAnswer> {
  const { db, person } = context;
  const sources = [...new Set(body.sources.map((source) => source.toLowerCase()))];
  const all = await waysOf(db.sql, person, sources);
  const edits = await inTurn(db, person, async (tx, seq) => {
    const rows = await tx<(Leaving & { source: string })[]>`
      select source, how, target, account, state from leaving
      where person = ${person} and source = any(${sources}::text[])`;
    const known = new Map(rows.map(({ source, ...value }) => [source, value]));
    const asked = editsOf(all, known);
    const names = asked.map(({ key }) => key.slice(key.indexOf(" ") + 1));
    if (asked.length > 0)
      await writeByHand(tx, context, seq, changeOf([], asked), {
        name: `Leave ${names.length === 1 ? names[0]! : plural(names.length, "list")}`,
        about: cut(names.join(", "), 200),
        messages: 0,
      });
    return asked;
  });
  const hows = new Map(edits.map((edit) => [edit.key, edit.kind === "leaving" ? edit.after!.how : "click"]));
  const written = all.filter(({ source }) => hows.get(source) === "letter");
  for (const { ways } of written) {
    const { to, subject, text } = ways.letter!;
    const draft = await createDraft(context, {
      kind: "new",
      answers: null,
      to: [{ name: "", address: to }],
      subject: cut(subject, 200),
      body: docOfText(cut(text || subject, 2000)),
    });
    await sendDraft(context, draft.id, { id: randomUUID(), version: null, afterwards: null });
  }
  const open = all.filter(({ ways: { click, letter } }) => click === null && letter === null);
  const found = new Set(all.map(({ source }) => source));
  return {
    asked: edits.filter(({ key }) => hows.get(key) === "click").map(({ key }) => key),
    written: written.map(({ source }) => source),
    pages: open.flatMap(({ source, ways: { page } }) => (page === null ? [] : [{ source, page }])),
    none: [
      ...open.filter(({ ways }) => ways.page === null).map(({ source }) => source),
      ...sources.filter((source) => !found.has(source)),
    ],
  };
}
