import { randomUUID } from "node:crypto";
import {
  changeOfMessages,
  compose,
  filterChange,
  isEmpty,
  reconcile,
  thingKey,
  type Change,
  type Skip,
  type ThingEdit,
  type World,
} from "@/core/change";
import { runId, type MessageId, type PersonId, type RunId } from "@/core/id";
import { onlyExisting, planUndo, restorable, stillStanding, takenBack } from "@/core/ledger";
import type { Database, Transaction } from "../db";
import {
  appendEntry,
  findEntry,
  listOf,
  partsOf,
  readRun,
  readStates,
  readThings,
  setStanding,
  takeTurn,
  tell,
  writeChange,
  type LedgerEntry,
} from "../store";
import { tellOfThings } from "./apply";
import { notFound, Refusal } from "./refusal";
import { inTurn } from "./turn";

export type BackKind = "undo" | "redo";

/** Every message the change touches or copies from. */
function involved(change: Change): MessageId[] {
  const ids = new Set<MessageId>(change.messages.keys());
  for (const edits of new Set(change.messages.values()))
    for (const edit of edits)
      if (edit.kind === "exists") for (const end of [edit.before, edit.after]) if (end) ids.add(end.source);
  return [...ids];
}

/** Folders and labels a change puts messages into or on that nobody sees any more: they come back with the mail. */
async function broughtBack(tx: Transaction, person: PersonId, change: Change): Promise<ThingEdit[]> {
  const named = { folder: new Set<number>(), label: new Set<number>() };
  for (const edits of new Set(change.messages.values()))
    for (const edit of edits) {
      if (edit.kind === "folder") named.folder.add(edit.after);
      if (edit.kind === "label" && edit.after) named.label.add(edit.label);
    }
  const out: ThingEdit[] = [];
  for (const kind of ["folder", "label"] as const) {
    if (named[kind].size === 0) continue;
    const rows = await tx.unsafe<{ id: number }[]>(
      `select id from ${kind} where person = $1 and removed and id = any($2::text::int[])`,
      [person, listOf(named[kind])],
    );
    for (const { id } of rows) out.push({ kind, key: String(id), about: null, before: null, after: true });
  }
  return out.filter((edit) => !change.things.has(thingKey(edit)));
}

const WHY = {
  gone: "What it changed has been deleted for good since.",
  "changed-elsewhere": "Everything it changed has been changed again since.",
  "already-so": "Everything it changed is as it was before already.",
  sent: "It has been sent: nothing calls it back.",
} as const satisfies Record<Skip["reason"], string>;

/** What cannot be taken back in words; the reason that holds for most of it. */
function whyNothing(skipped: readonly Skip[], kind: BackKind): string {
  const counts = new Map<Skip["reason"], number>();
  for (const { reason } of skipped) counts.set(reason, (counts.get(reason) ?? 0) + 1);
  if (counts.has("sent")) return WHY.sent;
  const [most] = [...counts].sort((a, b) => b[1] - a[1]);
  if (!most) return "It changed nothing that could be taken back.";
  return kind === "redo" && most[0] === "already-so" ? "Everything it would change is so already." : WHY[most[0]];
}

type Outcome = { readonly done: LedgerEntry; readonly skipped: readonly Skip[] } | { readonly refused: Refusal };

async function takeBackIn(
  tx: Transaction,
  person: PersonId,
  seq: number,
  kind: BackKind,
  target: LedgerEntry,
  id: RunId,
): Promise<Outcome> {
  const { written, standing } = await readRun(tx, person, target.id);
  const meant = kind === "undo" ? standing : takenBack(written, standing);
  const states = await readStates(tx, person, involved(meant));
  const world: World = { state: (message) => states.get(message) ?? null, thing: await readThings(tx, person, meant) };
  const { ready, skipped } = kind === "undo" ? planUndo(standing, world) : reconcile(meant, world);
  if (isEmpty(ready)) {
    // What is gone can never come back: the run is what is left of it, so that nobody tries again.
    if (kind === "undo") {
      const left = onlyExisting(standing, world);
      if (restorable(left) < restorable(standing)) {
        await setStanding(tx, person, target.id, written, left);
        await tell(tx, person, "ledger");
      }
    }
    const title = kind === "undo" ? "Nothing left to take back" : "Nothing left to do again";
    return { refused: new Refusal(409, title, whyNothing(skipped, kind), { code: "nothing-left" }) };
  }
  const back = await broughtBack(tx, person, ready);
  const done = await writeChange(tx, person, compose(ready, changeOfMessages([], back)), states);
  // What comes back with the mail is no part of the run.
  const extra = new Set(back.map(thingKey));
  const own = filterChange(
    done.change,
    () => true,
    (edit) => !extra.has(thingKey(edit)),
  );
  const now = stillStanding(standing, own);
  await setStanding(tx, person, target.id, written, kind === "undo" ? onlyExisting(now, world) : now);
  // What holds the old value already needs no mention.
  const left = [...skipped, ...done.skipped].filter((skip) => skip.reason !== "already-so");
  const entry = await appendEntry(
    tx,
    person,
    {
      seq,
      id,
      kind,
      actor: "person",
      cause: null,
      of: target.id,
      macro: target.macro,
      name: target.name,
      steps: target.steps,
      about: target.about,
      messages: meant.messages.size,
      skipped: left,
    },
    done.change,
  );
  await tellOfThings(tx, person, done.change);
  return { done: entry, skipped: left };
}

/**
 * Takes a run back with the parts of it that went on behind drafts, the last first: each is an entry of its own. What
 * of them has been sent stays, and is said.
 */
async function takeBackWhole(
  tx: Transaction,
  person: PersonId,
  seq: number,
  target: LedgerEntry,
  id: RunId,
): Promise<Outcome> {
  const parts = await partsOf(tx, person, target.id);
  const skipped: Skip[] = [];
  let next = seq;
  for (const part of parts) {
    const outcome = await takeBackIn(tx, person, next, "undo", part, runId(randomUUID()));
    if ("refused" in outcome) continue;
    skipped.push(...outcome.skipped);
    next = await takeTurn(tx, person);
  }
  const outcome = await takeBackIn(tx, person, next, "undo", target, id);
  return "refused" in outcome ? outcome : { ...outcome, skipped: [...skipped, ...outcome.skipped] };
}

/**
 * Takes a run back, or does it again, as a new entry that names it. Cells that something else has changed
 * since are left alone and listed. Where nothing can be taken back, nothing is written.
 * @param request an id of the caller's own, so that asking twice does it once
 * @throws Refusal for what is no run, or no more to be taken back
 */
export async function takeBack(
  db: Database,
  person: PersonId,
  kind: BackKind,
  run: RunId,
  request?: string,
): Promise<{ readonly entry: LedgerEntry; readonly skipped: readonly Skip[] }> {
  const id = runId(request ?? randomUUID());
  const outcome = await inTurn(db, person, async (tx, seq): Promise<Outcome | { readonly earlier: LedgerEntry }> => {
    const earlier = await findEntry(tx, person, id);
    if (earlier) return { earlier };
    const target = await findEntry(tx, person, run);
    if (!target || target.kind === "arrival") return { refused: notFound("run", run) };
    if (target.kind !== "run")
      return {
        refused: new Refusal(
          409,
          "Not a run",
          `This entry is ${target.kind === "undo" ? "an undo" : "a redo"}: name the run it is about.`,
        ),
      };
    if (kind === "undo" && target.state === "undone")
      return {
        refused: new Refusal(409, "Already undone", "This run has been taken back already.", { code: "nothing-left" }),
      };
    if (kind === "redo" && target.state === "done")
      return {
        refused: new Refusal(409, "Still done", "This run was not taken back, so there is nothing to do again."),
      };
    if (kind === "redo") return takeBackIn(tx, person, seq, kind, target, id);
    return takeBackWhole(tx, person, seq, target, id);
  });
  if ("refused" in outcome) throw outcome.refused;
  if ("earlier" in outcome) return { entry: outcome.earlier, skipped: [] };
  return { entry: outcome.done, skipped: outcome.skipped };
}
