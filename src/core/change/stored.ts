import * as z from "zod";
import { folderId, labelId, markerId, messageId, type MessageId } from "../id";
import type { MessageEdit } from "./cell";
import { changeOfMessages, type Change } from "./change";
import { THING_KINDS, thingKey, THINGS, type ThingEdit, type ThingKey, type ThingKind } from "./thing";

/**
 * The stored form, version 2: messages with the same edits stand together, so ten thousand messages moved
 * by one run are one list of ids and a handful of edits. Message ids are written as steps from the one
 * before, which are short and compress well. Version 1, which had things among the edits of messages, is read.
 */
export interface StoredChange {
  readonly v: 2;
  readonly groups: readonly { readonly steps: readonly number[]; readonly edits: readonly MessageEdit[] }[];
  readonly things: readonly ThingEdit[];
}

const time = z.iso.datetime().nullable();
const folder = z.number().transform(folderId);
const label = z.number().transform(labelId);
const message = z.number().transform(messageId);
const marker = z.number().transform(markerId).nullable();
const flag = z.strictObject({ start: time, due: time, note: z.string().nullable() }).nullable();
const note = z.string().nullable();

const state = z.strictObject({
  folder,
  read: z.boolean(),
  flag,
  pin: z.boolean(),
  marker,
  labels: z.array(label),
  note,
  defer: time,
  // Copies noted before there was such a thing were not back from anywhere.
  back: time.default(null),
  await: time,
  // Nor had pins an end.
  hand: time.default(null),
  owed: z.boolean(),
});
const existence = z.strictObject({ source: message, state }).nullable();

const ends = <K extends string, T extends z.ZodType>(kind: K, value: T) =>
  z.strictObject({ kind: z.literal(kind), before: value, after: value });

const messageEdits = [
  ends("folder", folder),
  ends("read", z.boolean()),
  ends("flag", flag),
  ends("pin", z.boolean()),
  ends("marker", marker),
  ends("note", note),
  ends("defer", time),
  ends("back", time),
  ends("await", time),
  ends("hand", time),
  ends("owed", z.boolean()),
  ends("exists", existence),
  ends("gone", z.boolean()),
  z.strictObject({ kind: z.literal("label"), label, before: z.boolean(), after: z.boolean() }),
] as const;

const messageEdit = z.discriminatedUnion("kind", [...messageEdits]);

const thingShape = <K extends ThingKind>(kind: K) =>
  z.strictObject({
    kind: z.literal(kind),
    key: z.string().regex(THINGS[kind].key),
    about: message.nullable(),
    before: z.nullable(THINGS[kind].value),
    after: z.nullable(THINGS[kind].value),
  });
const thingEdit = z.union(THING_KINDS.map(thingShape));

const group = <T extends z.ZodType>(edit: T) =>
  z.strictObject({ steps: z.array(z.number().int()), edits: z.array(edit).min(1) });

const thingEdits = z.array(thingEdit);
/** Refuses what it does not know: an unknown version, cell or field is an error, never dropped. */
const second = z.strictObject({
  v: z.literal(2),
  groups: z.array(group(messageEdit)),
  things: thingEdits,
});

const task = THINGS.task.value.nullable();
const contact = THINGS.contact.value.nullable();
const firstThing = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("task"), task: z.number(), before: task, after: task }),
  z.strictObject({ kind: z.literal("contact"), address: z.string(), before: contact, after: contact }),
  z.strictObject({ kind: z.literal("blocked"), address: z.string(), before: z.boolean(), after: z.boolean() }),
]);
type FirstThing = z.infer<typeof firstThing>;

const first = z.strictObject({ v: z.literal(1), groups: z.array(group(z.union([messageEdit, firstThing]))) });

const stored = z.discriminatedUnion("v", [first, second]);

/**
 * The stored form of a change. `load(store(c))` is `c`.
 * @throws ZodError for a thing that could not be read again: what types let through, such as a property too many
 */
export function store(change: Change): StoredChange {
  const ids = new Map<string, { ids: MessageId[]; edits: readonly MessageEdit[] }>();
  const byList = new Map<readonly MessageEdit[], MessageId[]>();
  for (const [id, edits] of change.messages) {
    let list = byList.get(edits);
    if (!list) {
      const key = JSON.stringify(edits);
      const found = ids.get(key) ?? { ids: [], edits };
      ids.set(key, found);
      byList.set(edits, (list = found.ids));
    }
    list.push(id);
  }
  const groups = [...ids.values()].map(({ ids: members, edits }) => {
    let last = 0;
    const steps = members
      .sort((a, b) => a - b)
      .map((id) => {
        const step = id - last;
        last = id;
        return step;
      });
    return { steps, edits };
  });
  const things = [...change.things.values()];
  thingEdits.parse(things);
  return { v: 2, groups, things };
}

const isFirstThing = (edit: MessageEdit | FirstThing): edit is FirstThing =>
  edit.kind === "task" || edit.kind === "contact" || edit.kind === "blocked";

function thingOfFirst(edit: FirstThing, about: MessageId): ThingEdit {
  if (edit.kind === "task")
    return { kind: "task", key: String(edit.task), about, before: edit.before, after: edit.after };
  if (edit.kind === "contact")
    return { kind: "contact", key: edit.address, about, before: edit.before, after: edit.after };
  return { kind: "blocked", key: edit.address, about, before: edit.before || null, after: edit.after || null };
}

/** @throws RangeError for anything that is not a stored change of a version known here. */
export function load(raw: unknown): Change {
  const read = stored.safeParse(raw);
  if (!read.success) throw new RangeError(`not a stored change: ${read.error.issues[0]?.message ?? "unreadable"}`);
  const byMessage: [MessageId, readonly MessageEdit[]][] = [];
  // Version 1 held a thing once for each message that named it, each with ends of its own: the first of them
  // was there before, and the last is what was left.
  const old = new Map<ThingKey, ThingEdit>();
  for (const { steps, edits } of read.data.groups) {
    // The parser's types say the same as ours, but for which values of one edit go together.
    const mixed = edits as readonly (MessageEdit | FirstThing)[];
    const own = mixed.filter((edit): edit is MessageEdit => !isFirstThing(edit));
    const things = mixed.filter(isFirstThing);
    let id = 0;
    for (const step of steps) {
      const member = messageId((id += step));
      if (own.length > 0) byMessage.push([member, own]);
      for (const edit of things) {
        const thing = thingOfFirst(edit, member);
        const earlier = old.get(thingKey(thing));
        old.set(
          thingKey(thing),
          earlier ? ({ ...thing, about: earlier.about, before: earlier.before } as ThingEdit) : thing,
        );
      }
    }
  }
  const things = read.data.v === 2 ? (read.data.things as readonly ThingEdit[]) : old.values();
  return changeOfMessages(byMessage, things);
}
