import {
  changeOfMessages,
  compose,
  isEmpty,
  reconcile,
  type Change,
  type MessageEdit,
  type ThingEdit,
} from "@/core/change";
import { messageId, type MessageId, type PersonId, type RunId } from "@/core/id";
import type { Actor } from "@/core/ledger";
import type { Plan, PlannedThing } from "@/core/macro";
import { cut, plural } from "@/core/text";
import type { Transaction } from "../db";
import { appendEntry, readThings, tell, writeChange, type LedgerEntry } from "../store";
import type { Prepared } from "./planning";

const LONGEST_ABOUT = 200;

const ofKind = <K extends PlannedThing["kind"]>({ things }: Plan, kind: K) =>
  things.filter((thing): thing is Extract<PlannedThing, { kind: K }> => thing.kind === kind);

async function numbers(tx: Transaction, table: "message" | "task", count: number): Promise<number[]> {
  if (count === 0) return [];
  const rows = await tx<{ id: number }[]>`
    select nextval(pg_get_serial_sequence(${table}, 'id')) as id from generate_series(1, ${count})`;
  return rows.map((row) => row.id);
}

/** People by address, each once, with the first message that named them. */
const onceEach = <T extends { readonly address: string }>(things: readonly T[]): T[] => [
  ...new Map([...things].reverse().map((thing) => [thing.address, thing])).values(),
];

/** The plan's change, with all it makes under ids of their own; people who are known already are left out. */
async function withThings(tx: Transaction, person: PersonId, plan: Plan): Promise<Change> {
  if (plan.things.length === 0) return plan.change;
  const copies = ofKind(plan, "copy");
  const tasks = ofKind(plan, "task");
  const messages = await numbers(tx, "message", copies.length);
  const taskIds = await numbers(tx, "task", tasks.length);
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
    ...onceEach(ofKind(plan, "contact")).map(({ source, address, name }): ThingEdit => ({
      kind: "contact",
      key: address,
      about: source,
      before: null,
      after: { name },
    })),
    ...onceEach(ofKind(plan, "blocked")).map(({ source, address }): ThingEdit => ({
      kind: "blocked",
      key: address,
      about: source,
      before: null,
      after: true,
    })),
  ];
  const made = changeOfMessages(edits, things);
  // Who is a contact or blocked already stays so, and is not this run's to take back.
  const known = { state: () => null, thing: await readThings(tx, person, made) };
  const people = reconcile(changeOfMessages([], things), known).ready;
  return compose(plan.change, changeOfMessages(edits, people.things.values()));
}

/** Who runs it, and what the ledger is to say of it. */
export interface Doing {
  readonly seq: number;
  readonly id: RunId;
  readonly actor: Actor;
  readonly cause: string | null;
  /** What it is on, in words, where whoever asked for it has said so. */
  readonly about?: string | undefined;
  /** What else the run writes, beside what its steps do. */
  readonly things?: readonly ThingEdit[];
}

/** Folders and labels are what windows know by heart: they are told to read them again. */
export async function tellOfThings(tx: Transaction, person: PersonId, change: Change): Promise<void> {
  const kinds = new Set([...change.things.values()].map((edit) => edit.kind));
  if (kinds.has("folder") || kinds.has("label")) await tell(tx, person, "settings");
}

/** What a run is on: the subject of its one message, or how many they are. */
async function aboutOf(tx: Transaction, person: PersonId, ids: readonly MessageId[]): Promise<string> {
  if (ids.length !== 1) return plural(ids.length, "message");
  const [row] = await tx<
    { subject: string }[]
  >`select subject from message where person = ${person} and id = ${ids[0]!}`;
  return cut(row?.subject ?? "", LONGEST_ABOUT);
}

/** Writes what was prepared in this turn, where it still holds, with its one ledger row. */
export async function apply(tx: Transaction, person: PersonId, prepared: Prepared, doing: Doing): Promise<LedgerEntry> {
  const { macro, plan } = prepared;
  const { things = [], about, ...who } = doing;
  const wanted = compose(await withThings(tx, person, plan), changeOfMessages([], things));
  const { change, skipped } = await writeChange(tx, person, wanted, prepared.states);
  const entry = await appendEntry(
    tx,
    person,
    {
      ...who,
      kind: "run",
      of: null,
      macro: macro.id,
      name: macro.name,
      steps: macro.steps,
      about: about ?? (await aboutOf(tx, person, prepared.ids)),
      messages: prepared.ids.length,
      skipped: [...prepared.gone, ...plan.skipped, ...skipped],
    },
    change,
  );
  if (macro.id !== null && !isEmpty(change))
    await tx`update macro set uses = uses + 1, used_at = now() where person = ${person} and id = ${macro.id}`;
  await tellOfThings(tx, person, change);
  return entry;
}
