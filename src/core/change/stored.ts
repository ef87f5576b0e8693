import { z } from "zod";
import { folderId, labelId, markerId, messageId, taskId, type MessageId } from "../id";
import type { CellEdit } from "./cell";
import { changeOfMessages, type Change } from "./change";

/**
 * The stored form, version 1: messages with the same edits stand together, so ten thousand messages moved
 * by one run are one list of ids and a handful of edits. Message ids are written as steps from the one
 * before, which are short and compress well.
 */
export interface StoredChange {
  readonly v: 1;
  readonly groups: readonly { readonly steps: readonly number[]; readonly edits: readonly CellEdit[] }[];
}

const iso = z.iso.datetime();
const folder = z.number().transform(folderId);
const label = z.number().transform(labelId);
const marker = z.number().transform(markerId).nullable();
const flag = z.strictObject({ start: iso.nullable(), due: iso.nullable(), note: z.string().nullable() }).nullable();
const note = z.string().nullable();
const time = iso.nullable();

const state = z.strictObject({
  folder,
  read: z.boolean(),
  flag,
  pin: z.boolean(),
  marker,
  labels: z.array(label),
  note,
  defer: time,
  await: time,
  owed: z.boolean(),
});
const existence = z.strictObject({ source: z.number().transform(messageId), state }).nullable();

const task = z
  .strictObject({
    title: z.string(),
    due: time,
    estimate: z.number().nullable(),
    about: z.string(),
    done: z.boolean(),
  })
  .nullable();
const contact = z.strictObject({ name: z.string() }).nullable();

const ends = <K extends string, T extends z.ZodType>(kind: K, value: T) =>
  z.strictObject({ kind: z.literal(kind), before: value, after: value });

const edit = z.discriminatedUnion("kind", [
  ends("folder", folder),
  ends("read", z.boolean()),
  ends("flag", flag),
  ends("pin", z.boolean()),
  ends("marker", marker),
  ends("note", note),
  ends("defer", time),
  ends("await", time),
  ends("owed", z.boolean()),
  ends("exists", existence),
  ends("gone", z.boolean()),
  z.strictObject({ kind: z.literal("task"), task: z.number().transform(taskId), before: task, after: task }),
  z.strictObject({ kind: z.literal("contact"), address: z.string(), before: contact, after: contact }),
  z.strictObject({ kind: z.literal("blocked"), address: z.string(), before: z.boolean(), after: z.boolean() }),
  z.strictObject({ kind: z.literal("label"), label, before: z.boolean(), after: z.boolean() }),
]);

/** Refuses what it does not know: an unknown version, cell or field is an error, never dropped. */
const stored = z.strictObject({
  v: z.literal(1),
  groups: z.array(z.strictObject({ steps: z.array(z.number().int()), edits: z.array(edit).min(1) })),
});

/** The stored form of a change. `load(store(c))` is `c`. */
export function store(change: Change): StoredChange {
  const ids = new Map<string, { ids: MessageId[]; edits: readonly CellEdit[] }>();
  const byList = new Map<readonly CellEdit[], MessageId[]>();
  for (const [message, edits] of change) {
    let list = byList.get(edits);
    if (!list) {
      const key = JSON.stringify(edits);
      const group = ids.get(key) ?? { ids: [], edits };
      ids.set(key, group);
      byList.set(edits, (list = group.ids));
    }
    list.push(message);
  }
  const groups = [...ids.values()].map((group) => {
    let last = 0;
    const steps = group.ids
      .sort((a, b) => a - b)
      .map((id) => {
        const step = id - last;
        last = id;
        return step;
      });
    return { steps, edits: group.edits };
  });
  return { v: 1, groups };
}

/** @throws RangeError for anything that is not a stored change of a version known here. */
export function load(raw: unknown): Change {
  const read = stored.safeParse(raw);
  if (!read.success) throw new RangeError(`not a stored change: ${read.error.issues[0]?.message ?? "unreadable"}`);
  const byMessage: [MessageId, readonly CellEdit[]][] = [];
  for (const group of read.data.groups) {
    let id = 0;
    for (const step of group.steps) byMessage.push([messageId((id += step)), group.edits as readonly CellEdit[]]);
  }
  return changeOfMessages(byMessage);
}
