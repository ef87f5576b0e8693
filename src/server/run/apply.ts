import {
  changeOfMessages,
  compose,
  isEmpty,
  listedKey,
  type Change,
  type Leaving,
  type Report,
  type MessageEdit,
  type ThingEdit,
} from "@/core/change";
import { randomUUID } from "node:crypto";
import { messageId, runId, type MessageId, type PersonId, type RunId } from "@/core/id";
import type { Actor, Hand } from "@/core/ledger";
import type { Plan, PlannedThing } from "@/core/macro";
import { cut, plural } from "@/core/text";
import type { Transaction } from "../db";
import {
  appendArrival,
  appendEntry,
  readThings,
  reserve,
  takeTurn,
  tell,
  writeChange,
  type LedgerEntry,
} from "../store";
import { eventsOf } from "./events";
import { leaving } from "./leaving";
import { makeLetters } from "./letters";
import type { Prepared } from "./planning";
import type { Who } from "./turn";

const LONGEST_ABOUT = 200;

const ofKind = <K extends PlannedThing["kind"]>({ things }: Plan, kind: K) =>
  things.filter((thing): thing is Extract<PlannedThing, { kind: K }> => thing.kind === kind);

/** Each once, with the first message that named it. */
const onceEach = <T>(things: readonly T[], keyOf: (thing: T) => string): T[] => [
  ...new Map([...things].reverse().map((thing) => [keyOf(thing), thing])).values(),
];

/** What a plan writes about people and lists: what is known of them, as if nothing had been. */
function peopleOf(plan: Plan): ThingEdit[] {
  const byAddress = ({ address }: { readonly address: string }) => address;
  const bySource = ({ of }: { readonly of: string }) => of;
  const edit = <const E>(key: string, about: MessageId, after: E) => ({ key, about, before: null, after });
  return [
    ...onceEach(ofKind(plan, "contact"), byAddress).map(({ source, address, name }): ThingEdit => ({
      kind: "contact",
      ...edit(address, source, { name, note: "" }),
    })),
    ...onceEach(ofKind(plan, "blocked"), byAddress).map(({ source, address }): ThingEdit => ({
      kind: "blocked",
      ...edit(address, source, true),
    })),
    ...ofKind(plan, "listed").map(({ source, list, address }): ThingEdit => ({
      kind: "listed",
      ...edit(listedKey(list, address), source, true),
    })),
    ...onceEach(ofKind(plan, "leaving"), bySource).map(({ source, of, account }): ThingEdit => ({
      kind: "leaving",
      ...edit(of, source, { how: "look", target: "", account, state: "waiting" }),
    })),
    ...ofKind(plan, "report").map(({ source, as }): ThingEdit => ({
      kind: "report",
      ...edit(String(source), source, { as, state: "waiting" }),
    })),
    ...onceEach(ofKind(plan, "aside"), bySource).map(({ source, of, on }): ThingEdit => ({
      kind: "aside",
      ...edit(of, source, on ? "aside" : "declined"),
    })),
  ];
}

/** Who is a contact, blocked or asked already stays so, and is not this run's to take back; where mail goes is decided anew. */
async function withoutKnown(tx: Transaction, person: PersonId, wanted: readonly ThingEdit[]): Promise<ThingEdit[]> {
  const stored = await readThings(tx, person, changeOfMessages([], wanted));
  return wanted.flatMap((edit): ThingEdit[] => {
    const before = stored(edit);
    if (before === null) return [edit];
    const anew =
      (edit.kind === "aside" && before !== edit.after) ||
      (edit.kind === "leaving" && (before as Leaving).state === "refused") ||
      (edit.kind === "report" && ((before as Report).as !== edit.after!.as || (before as Report).state === "refused"));
    return anew ? [{ ...edit, before } as ThingEdit] : [];
  });
}

/**
 * The plan's change, with all it makes under ids of their own; people who are known already are left out.
 * @param run whose plan it is: letters for the person to finish name it
 */
export async function withThings(
  tx: Transaction,
  who: Who,
  { plan, macro, answers = {}, context }: Pick<Prepared, "plan" | "macro" | "answers" | "context">,
  run: RunId,
): Promise<{ readonly change: Change; readonly letters: readonly MessageId[] }> {
  if (plan.things.length === 0) return { change: plan.change, letters: [] };
  const { person } = who;
  const copies = ofKind(plan, "copy");
  const tasks = ofKind(plan, "task");
  const messages = await reserve(tx, "message", copies.length);
  const taskIds = await reserve(tx, "task", tasks.length);
  const edits = new Map<MessageId, MessageEdit[]>();
  copies.forEach(({ source, state }, i) =>
    edits.set(messageId(messages[i]!), [{ kind: "exists", before: null, after: { source, state } }]),
  );
  const things: ThingEdit[] = [
    ...tasks.map(({ source, task }, i): ThingEdit => ({
      kind: "task",
      key: String(taskIds[i]),
      about: source,
      before: null,
      after: task,
    })),
    ...(await eventsOf(
      tx,
      who,
      ofKind(plan, "event"),
      new Map(tasks.map(({ source }, i) => [source, Number(taskIds[i])])),
    )),
    ...(await withoutKnown(tx, person, peopleOf(plan))),
  ];
  const letters = await makeLetters(tx, who, plan, run, { macro, answers, context });
  const change = compose(plan.change, changeOfMessages(edits, things));
  return { change: compose(change, letters.change), letters: letters.ids };
}

/** Who runs it, and what the ledger is to say of it. */
export interface Doing {
  readonly seq: number;
  readonly id: RunId;
  readonly actor: Actor;
  readonly cause: string | null;
  /** With what the person made it. */
  readonly hand?: Hand | undefined;
  /** What it is on, in words, where whoever asked for it has said so. */
  readonly about?: string | undefined;
  /** What else the run writes, beside what its steps do. */
  readonly things?: readonly ThingEdit[];
  /** What is to be done about letters that it queues, once it is written. */
  readonly onQueued?: (letters: readonly MessageId[]) => Promise<void>;
}

/** The letters that a change puts on their way. */
export const queuedBy = ({ things }: Change): MessageId[] =>
  [...things.values()].flatMap((edit) =>
    edit.kind === "held" && edit.before === null && edit.after === "waiting" ? [messageId(Number(edit.key))] : [],
  );

/** Folders and labels are what windows know by heart: they are told to read them again. */
export async function tellOfThings(tx: Transaction, person: PersonId, change: Change): Promise<void> {
  const kinds = new Set([...change.things.values()].map((edit) => edit.kind));
  if (kinds.has("folder") || kinds.has("label")) await tell(tx, person, "settings");
  if (kinds.has("held") || kinds.has("pause")) await tell(tx, person, "outgoing");
}

/** What a run is on: the subject of its one message, or how many they are. */
async function aboutOf(tx: Transaction, person: PersonId, ids: readonly MessageId[]): Promise<string> {
  if (ids.length !== 1) return plural(ids.length, "message");
  const [row] = await tx<
    { subject: string }[]
  >`select subject from message where person = ${person} and id = ${ids[0]!}`;
  return cut(row?.subject ?? "", LONGEST_ABOUT);
}

/** Tells windows of letters that were begun, and takes another turn for what comes after. @returns its number */
export async function tellOfLetters(
  tx: Transaction,
  person: PersonId,
  seq: number,
  letters: readonly MessageId[],
): Promise<number> {
  if (letters.length === 0) return seq;
  await appendArrival(tx, person, seq, runId(randomUUID()), letters);
  return takeTurn(tx, person);
}

/** Writes what was prepared in this turn, where it still holds, with its one ledger row. */
export async function apply(tx: Transaction, writer: Who, prepared: Prepared, doing: Doing): Promise<LedgerEntry> {
  const { person } = writer;
  const { macro, plan } = prepared;
  const { things = [], about, seq: first, onQueued, ...who } = doing;
  const made = await withThings(tx, writer, prepared, doing.id);
  const seq = await tellOfLetters(tx, person, first, made.letters);
  const { wanted, left } = await leaving(tx, person, compose(made.change, changeOfMessages([], things)));
  // Letters are not among what was read before.
  const known = made.letters.length === 0 ? prepared.states : undefined;
  const { change, skipped } = await writeChange(tx, person, wanted, known);
  const entry = await appendEntry(
    tx,
    person,
    {
      ...who,
      seq,
      kind: "run",
      of: null,
      macro: macro.id,
      name: macro.name,
      steps: macro.steps,
      about: about ?? (await aboutOf(tx, person, prepared.ids)),
      messages: prepared.ids.length,
      skipped: [...prepared.gone, ...plan.skipped, ...left, ...skipped],
    },
    change,
  );
  if (macro.id !== null && !isEmpty(change))
    await tx`update macro set uses = uses + 1, used_at = now() where person = ${person} and id = ${macro.id}`;
  await tellOfThings(tx, person, change);
  await onQueued?.(queuedBy(change));
  return entry;
}
