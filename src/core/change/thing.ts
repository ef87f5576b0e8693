import type { MessageId, TaskId } from "../id";

/** Something to do. It keeps a copy of what it needs of its message, which may be deleted for good. */
export interface Task {
  readonly title: string;
  /** ISO 8601 in UTC, like all dates of changes. */
  readonly due: string | null;
  /** Minutes. */
  readonly estimate: number | null;
  /** Who the message was from and what it was about. */
  readonly about: string;
  readonly done: boolean;
}

export interface Contact {
  readonly name: string;
}

/** Edits of what is not a message; each is noted with the message it was made from. */
export type ThingEdit =
  | { readonly kind: "task"; readonly task: TaskId; readonly before: Task | null; readonly after: Task | null }
  /** Addresses are in lower case. */
  | {
      readonly kind: "contact";
      readonly address: string;
      readonly before: Contact | null;
      readonly after: Contact | null;
    }
  | { readonly kind: "blocked"; readonly address: string; readonly before: boolean; readonly after: boolean }
  /** Deleted for good: nothing brings it back, so nothing takes this edit back. */
  | { readonly kind: "gone"; readonly before: boolean; readonly after: boolean };

export const THING_KINDS = ["task", "contact", "blocked", "gone"] as const satisfies readonly ThingEdit["kind"][];

export const isThing = <E extends { readonly kind: string }>(edit: E): edit is Extract<E, ThingEdit> =>
  (THING_KINDS as readonly string[]).includes(edit.kind);

/** Which cell an edit of a thing writes. Things are the same cell whatever message they were made from. */
export function thingCell(edit: ThingEdit): string {
  switch (edit.kind) {
    case "task":
      return `task:${edit.task}`;
    case "contact":
    case "blocked":
      return `${edit.kind}:${edit.address}`;
    case "gone":
      return "gone";
  }
}

const sameTask = (a: Task, b: Task): boolean =>
  a.title === b.title && a.due === b.due && a.estimate === b.estimate && a.about === b.about && a.done === b.done;

/** Equality of two values of one thing. */
export function sameThing(a: ThingEdit["before"], b: ThingEdit["before"]): boolean {
  if (a === b) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if ("title" in a) return "title" in b && sameTask(a, b);
  return "name" in b && a.name === b.name;
}

/** What is stored for a thing now: null or false when there is none. */
export type ReadThing = (edit: ThingEdit, message: MessageId) => ThingEdit["before"];
