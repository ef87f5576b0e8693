import { readNarrow, type NarrowContext } from "./check";
import { matcher, needlesOf } from "./matches";
import { parse } from "./parse";
import type { NarrowRow } from "./row";
import type { Tree } from "./tree";

/** The conditions that all have to hold, each as it was written: `a & (b | c)` is `a` and `(b | c)`. */
export function conditionsIn(source: string): string[] {
  const parsed = parse(source);
  if (!parsed.ok) return [source.trim()];
  const { tree } = parsed;
  const parts: readonly Tree[] = tree.kind === "and" ? tree.parts : tree.kind === "all" ? [] : [tree];
  return parts.map((part) => source.slice(part.span.from, part.span.to));
}

/** Why a message is where it is found: one line for each condition. */
export interface Reason {
  readonly condition: string;
  /** null where only the server knows, since the condition asks for words of the message. */
  readonly holds: boolean | null;
}

/** @param hasWords whether the row knows the words of the message */
export function explain(source: string, row: NarrowRow, context: NarrowContext, hasWords = false): Reason[] {
  return conditionsIn(source).map((condition) => {
    const checked = readNarrow(condition, context);
    if (!checked.ok) return { condition, holds: false };
    const holds = matcher(checked.test)(row);
    // What is found in the headers needs no look at the words.
    return { condition, holds: holds || hasWords || needlesOf(checked.test).size === 0 ? holds : null };
  });
}
