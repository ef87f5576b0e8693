import type { MessageState } from "../change";
import type { MessageId } from "../id";
import { DraftRow, type Facts } from "../macro";
import { matcher, type Test } from "../narrow";

/** What rules go by: which messages one is for, and whether those after it leave them alone. */
export interface Ruled {
  readonly test: Test;
  readonly stop: boolean;
  /** Whose mail alone it is for, in lower case; null or nothing for everybody's. */
  readonly senders?: ReadonlySet<string> | null;
  /** What else it asks of a message. */
  readonly isFor?: (id: MessageId) => boolean;
}

/** A message as it is by now. */
export interface Arrived {
  readonly state: MessageState;
  readonly facts: Facts;
}

/**
 * Each rule in its order with the messages it is for. A message is looked at anew for every rule: what the rules
 * before have made of it counts, when whoever is told of one has done it before asking for the next. Whoever could
 * not do it says false: then it stops nothing.
 * @param look a message as it is now; undefined where it is gone
 */
export function* ruling<R extends Ruled>(
  rules: readonly R[],
  messages: readonly MessageId[],
  look: (id: MessageId) => Arrived | undefined,
): Generator<{ readonly rule: R; readonly on: readonly MessageId[] }, void, boolean | undefined> {
  const row = new DraftRow();
  let left = messages;
  for (const rule of rules) {
    const matches = matcher(rule.test);
    const on = left.filter((id) => {
      const now = look(id);
      if (!now) return false;
      if (rule.isFor?.(id) === false) return false;
      if (rule.senders && !rule.senders.has(now.facts.fromAddress.toLowerCase())) return false;
      [row.draft, row.facts] = [now.state, now.facts];
      return matches(row);
    });
    if (on.length === 0) continue;
    const isDone = (yield { rule, on }) ?? true;
    if (!rule.stop || !isDone) continue;
    const stopped = new Set(on);
    left = left.filter((id) => !stopped.has(id));
  }
}
