import type { z } from "zod";
import type { outgoingPatch, OutgoingShape } from "@/core/api";
import { changeOf, type HeldState, type ThingEdit } from "@/core/change";
import { messageId, runId, type PersonId } from "@/core/id";
import { folderFor } from "@/core/place";
import type { Queryable, Transaction } from "../db";
import { noteSent } from "../jobs";
import { inTurn, notFound, readDirectory, Refusal, takeBack } from "../run";
import { readStates, tell } from "../store";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

/** What is on its way, with how far it is, and what can be done about it. */

type Row = Omit<OutgoingShape, "at"> & { readonly at_ms: number };

/** What has gone is told of for so long where somebody did not get it. */
const TOLD_FOR = "7 days";
/** Entries of the ledger looked into for the run that put something on its way. */
const LOOKED_INTO = 500;

async function rowsOf(sql: Queryable, person: PersonId, message: number | null): Promise<OutgoingShape[]> {
  // What is on its way was put there lately: the whole ledger is not looked through for it.
  const rows = await sql<Row[]>`
    with recent as materialized (select run, seq, lowest, highest, change from ledger
      where person = ${person} and kind = 'run' and actor = 'person' and state <> 'undone'
      order by seq desc limit ${LOOKED_INTO})
    select h.message, m.subject, h.state, (extract(epoch from h.at) * 1000)::float8 as at_ms, h.said, h.recipients,
      (select l.run from recent l where h.message between l.lowest and l.highest
        and l.change->'things' @> jsonb_build_array(
          jsonb_build_object('kind', 'held', 'key', h.message::text, 'after', 'waiting'))
        order by l.seq desc limit 1) as run
    from held h join message m on m.person = h.person and m.id = h.message
    where h.person = ${person} and (${message}::bigint is null or h.message = ${message})
      and (h.state <> 'sent' or (h.said is distinct from 'seen' and h.at > now() - ${TOLD_FOR}::interval
        and h.recipients @> '[{"state": "refused"}]'))
    order by h.at, h.message limit 1000`;
  return rows.map(({ at_ms, ...row }) => ({ ...row, at: new Date(at_ms).toISOString() }));
}

export const listOutgoing = ({ db, person }: Context): Promise<OutgoingShape[]> => rowsOf(db.sql, person, null);

async function one(sql: Queryable, person: PersonId, message: number): Promise<OutgoingShape> {
  const [row] = await rowsOf(sql, person, message);
  if (!row) throw notFound("message on its way", message);
  return row;
}

const OPEN: readonly string[] = ["waiting", "later", "refused"];

/** Back into drafts by hand: for what no run put here, or one that was forgotten. */
async function callBack(tx: Transaction, context: Context, seq: number, message: number): Promise<void> {
  const { person } = context;
  const id = messageId(message);
  const { folders } = await readDirectory(tx, person);
  const drafts = folderFor({ folders, labels: [], markers: [] }, "drafts")!.id;
  const state = (await readStates(tx, person, [id])).get(id)!;
  const held: ThingEdit = { kind: "held", key: String(message), about: null, before: "waiting", after: null };
  await writeByHand(
    tx,
    context,
    seq,
    changeOf([{ kind: "folder", message: id, before: state.folder, after: drafts }], [held]),
    { name: "Call back", about: `message ${message}`, messages: 1 },
  );
}

/** Does something about a message on its way. */
export async function changeOutgoing(
  context: Context,
  message: number,
  { do: what, at }: z.infer<typeof outgoingPatch>,
): Promise<OutgoingShape | null> {
  const { db, person } = context;
  const found = await one(db.sql, person, message);
  if (what === "call back" && OPEN.includes(found.state) && found.run !== null) {
    const before = found.run;
    try {
      await takeBack(db, person, "undo", runId(before));
      return null;
    } catch (error) {
      // Where the run cannot be taken back as a whole, the letter alone is.
      if (!(error instanceof Refusal)) throw error;
    }
  }
  await inTurn(db, person, async (tx, seq) => {
    const { state } = await one(tx, person, message);
    const no = (why: string) => new Refusal(409, "Too late", why);
    switch (what) {
      case "call back":
        if (!OPEN.includes(state)) throw no("It has left already, or may have.");
        return callBack(tx, context, seq, message);
      case "now":
        if (state !== "waiting" && state !== "later") throw no("It is not waiting.");
        await tx`
          update held set at = coalesce(${at ?? null}::timestamptz, now()) where person = ${person} and message = ${message}`;
        break;
      case "again": {
        if (state !== "unsure" && state !== "refused") throw no("There is nothing to try again.");
        await tx`
          update held set state = 'waiting', at = now(), said = null, tried_since = null
          where person = ${person} and message = ${message}`;
        break;
      }
      case "it went":
        if (state !== "unsure") throw no("It is known what became of it.");
        await noteSent(tx, person, seq, messageId(message), "unsure" satisfies HeldState, {
          actor: "person",
          cause: null,
        });
        break;
      case "seen":
        await tx`update held set said = 'seen' where person = ${person} and message = ${message} and state = 'sent'`;
    }
    await tell(tx, person, "outgoing");
  });
  return one(db.sql, person, message).catch(() => null);
}
