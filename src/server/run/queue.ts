import { randomUUID } from "node:crypto";
import * as z from "zod";
import {
  applyEdits,
  changeOfMessages,
  compose,
  EMPTY,
  type Change,
  type MessageEdit,
  type Pause,
  type ThingEdit,
} from "@/core/change";
import { messageId, runId, type MessageId, type PersonId, type RunId } from "@/core/id";
import type { Actor } from "@/core/ledger";
import { isAddress } from "@/core/letter";
import { needsOf, plan, settingsSchema, stepsSchema, textOfProblem, type Plan } from "@/core/macro";
import { folderFor } from "@/core/place";
import { cut } from "@/core/text";
import type { Database, Transaction } from "../db";
import { beginLetters, readDraft, sealDraft, type DraftRow, type NewLetter } from "../letters";
import {
  appendArrival,
  appendEntry,
  findEntry,
  readPauses,
  readStates,
  takeTurn,
  writeChange,
  type LedgerEntry,
} from "../store";
import { queuedBy, tellOfLetters, tellOfThings, withThings } from "./apply";
import { readDirectory } from "./directory";
import { readFacts } from "./facts";
import { guessesOn, plannableOf, readPlanning, type Asked, type Prepared } from "./planning";
import { notFound, Refusal } from "./refusal";
import { applyOnSending } from "./rules";
import { inTurn, type Who } from "./turn";

/** Sending: a draft goes on its way, and what waited for it goes on with it. */

export interface Sending {
  readonly id: RunId;
  readonly draft: MessageId;
  /** The version that was looked at; null for whichever it is. */
  readonly version: number | null;
  /** A macro that is run on the message it answers. */
  readonly afterwards: Asked["macro"] | null;
  /** What else is written with it, and what that is called: an invitation that it answers, say. */
  readonly beside?: Beside | undefined;
}

export interface Beside {
  readonly things: readonly ThingEdit[];
  readonly name: string;
  readonly about: string;
}

const kept = z.object({
  macro: z.object({ id: z.number().nullable(), name: z.string(), steps: stepsSchema, settings: settingsSchema }),
  macros: z.array(z.object({ name: z.string(), steps: stepsSchema, settings: settingsSchema })),
  answers: z.record(z.string(), z.string()),
  now: z.string(),
});

const LONGEST_NAME = 80;

/** What can be sent, as it stands. @throws Refusal where it cannot */
async function readSendable(
  tx: Transaction,
  person: PersonId,
  { draft: id, version }: Sending,
  drafts: number | undefined,
) {
  const draft = await readDraft(tx, person, id);
  const state = (await readStates(tx, person, [id])).get(id);
  if (!draft || !state) throw notFound("draft", id);
  if (state.folder !== drafts)
    throw new Refusal(
      409,
      "Not a draft any more",
      "It is on its way or was thrown away. Look in Outbox, Sent and Trash.",
    );
  if (version !== null && draft.version !== version)
    throw new Refusal(
      409,
      "Changed elsewhere",
      "Another window has changed this draft. Look at it there, or load it anew.",
      {
        code: "changed-elsewhere",
      },
    );
  const people = [...draft.to, ...draft.cc, ...draft.bcc];
  if (people.length === 0) throw new Refusal(422, "Nobody to send it to", "Write at least one address.");
  const bad = people.find(({ address }) => !isAddress(address));
  if (bad) throw new Refusal(422, "Not an address", `"${bad.address}" cannot be an address. Mend it or take it out.`);
  if (!isAddress(draft.sender.address))
    throw new Refusal(422, "No sender", "Choose whom it is from: its address cannot be written to.");
  return draft;
}

/** What the message it answers is changed by, so far: nothing is owed to it any more. */
function answeredBy(draft: DraftRow, owed: boolean): Change {
  if (draft.answers === null || !owed || draft.kind === "forward") return EMPTY;
  return changeOfMessages([[draft.answers, [{ kind: "owed", before: true, after: false } satisfies MessageEdit]]]);
}

/** The steps of a macro for one message, planned on what is true after what was planned so far. */
async function planOn(
  tx: Transaction,
  who: Who,
  asked: Omit<Asked, "target">,
  message: MessageId,
  soFar: Change,
  after: string | null,
  context?: Partial<Prepared["context"]>,
): Promise<Pick<Prepared, "plan" | "macro" | "answers" | "context"> | null> {
  const read = (await readStates(tx, who.person, [message])).get(message);
  if (!read) return null;
  const planning = await readPlanning(tx, who, asked);
  const all = { ...planning.context, ...context };
  const plannable = plannableOf(planning.macro);
  const needs = needsOf(plannable, all);
  const state = applyEdits(read, soFar.messages.get(message) ?? []);
  const facts = needs.facts ? await readFacts(tx, who.person, [message], needs.body ? new Map() : null) : null;
  const guesses = needs.guess ? await guessesOn(tx, who, asked, [message], null) : null;
  const planned = plan(
    plannable,
    [{ id: message, state, ...(facts ? { facts: facts.get(message)! } : {}) }],
    asked.answers ?? {},
    { ...all, ...(guesses ? { guess: (id) => guesses.get(id) ?? [] } : {}) },
    after,
  );
  if (!planned.ok) throw new Refusal(422, "The macro cannot go on", planned.problems.map(textOfProblem).join(" "));
  if (planned.plan.asks.length > 0)
    throw new Refusal(422, "The macro asks something", "Send without it, and run it by its key: there it can ask.");
  return { ...planning, context: all, plan: planned.plan, answers: asked.answers };
}

/** What goes on behind the draft: the rest of the run that waited for it. */
async function goingOn(tx: Transaction, who: Who, pause: Pause, soFar: Change) {
  const { macro, macros, answers, now } = kept.parse(JSON.parse(pause.macro));
  const { id, ...rest } = macro;
  const asked = { macro: { ...rest, ...(id === null ? {} : { id }) }, answers, at: now };
  return planOn(tx, who, asked as Omit<Asked, "target">, messageId(pause.message), soFar, pause.at, { macros });
}

async function sendIn(
  tx: Transaction,
  who: Who,
  first: number,
  sending: Sending,
  actor: Actor = "person",
): Promise<LedgerEntry> {
  const { person } = who;
  const { id, draft: message, afterwards, beside } = sending;
  const { context } = await readPlanning(tx, who, { macro: { name: "Send", steps: [] } });
  const [drafts, outbox] = (["drafts", "outbox"] as const).map((role) => folderFor(context.directory, role)?.id);
  const draft = await readSendable(tx, person, sending, drafts);
  await sealDraft(tx, person, message, draft.sendAt === null ? new Date() : new Date(draft.sendAt));
  await appendArrival(tx, person, first, runId(randomUUID()), [message]);
  let seq = await takeTurn(tx, person);
  const pause = (await readPauses(tx, person, [message])).get(message) ?? null;
  const state = draft.answers === null ? undefined : (await readStates(tx, person, [draft.answers])).get(draft.answers);
  const key = { key: String(message), about: draft.answers } as const;
  const things: ThingEdit[] = [{ ...key, kind: "held", before: null, after: "waiting" }, ...(beside?.things ?? [])];
  if (pause)
    things.push({ key: String(message), about: messageId(pause.message), kind: "pause", before: pause, after: null });
  let change = compose(
    changeOfMessages([[message, [{ kind: "folder", before: drafts!, after: outbox! }]]], things),
    answeredBy(draft, state?.owed ?? false),
  );
  const skipped: Plan["skipped"][number][] = [];
  const { answers } = draft;
  const parts = [
    pause && ((soFar: Change) => goingOn(tx, who, pause, soFar)),
    afterwards !== null &&
      answers !== null &&
      ((soFar: Change) => planOn(tx, who, { macro: afterwards }, answers, soFar, null)),
  ];
  for (const part of parts) {
    const planned = part ? await part(change) : null;
    if (!planned) continue;
    skipped.push(...planned.plan.skipped);
    const made = await withThings(tx, who, planned, id);
    change = compose(change, made.change);
    seq = await tellOfLetters(tx, person, seq, made.letters);
  }
  const written = await writeChange(tx, person, change);
  const entry = await appendEntry(
    tx,
    person,
    {
      seq,
      id,
      kind: "run",
      actor,
      cause: null,
      // A run that goes on names the one that waited.
      of: pause ? runId(pause.run) : null,
      macro: null,
      name: cut(beside?.name ?? `Send: ${draft.subject || "(no subject)"}`, LONGEST_NAME),
      steps: [],
      about: cut(beside?.about ?? `to ${draft.to[0]?.name || draft.to[0]?.address || "somebody"}`, LONGEST_NAME),
      messages: 1,
      skipped: [...skipped, ...written.skipped],
    },
    written.change,
  );
  await tellOfThings(tx, person, written.change);
  await applyOnSending(tx, who, queuedBy(written.change));
  return entry;
}

/**
 * Sends a draft: its source is fixed, it goes into the outbox, and what waited for it goes on, all in one transaction
 * and one entry, which taking back calls back whole. The same id again answers with what the first did.
 * @throws Refusal where it cannot be sent as it stands; nothing is written then
 */
export const sendDraft = (db: Database, who: Who, sending: Sending): Promise<LedgerEntry> =>
  inTurn(db, who.person, async (tx, seq) => {
    const earlier = await findEntry(tx, who.person, sending.id);
    return earlier ?? sendIn(tx, who, seq, sending);
  });

/** Writes a letter and sends it, in one transaction: it is on its way when that is, or was never begun. */
export async function sendAtOnce(
  tx: Transaction,
  who: Who,
  seq: number,
  letter: NewLetter,
  actor: Actor,
  beside?: Beside,
): Promise<LedgerEntry> {
  const { person } = who;
  const drafts = folderFor(await readDirectory(tx, person), "drafts");
  if (!drafts) throw new Refusal(409, "No folder for it", "No folder serves as drafts.");
  const [draft] = await beginLetters(tx, who, [letter], drafts.id, new Date());
  const sending = { id: runId(randomUUID()), draft: draft!, version: null, afterwards: null, beside };
  return sendIn(tx, who, seq, sending, actor);
}
