import type { MessageId } from "../id";
import type { MessageState } from "./cell";
import type { ThingEdit, ThingValue } from "./thing";

/** What there is now, as far as somebody knows it: a window, or a transaction. */
export interface World {
  /** null when there is no such message. */
  readonly state: (message: MessageId) => MessageState | null;
  /** null when there is none; undefined where such things are not known here. */
  readonly thing: (edit: ThingEdit) => ThingValue | null | undefined;
}
