import type { Doc } from "../letter";

/** A text that is written again and again, with values that each message fills in. */
export interface Template {
  readonly name: string;
  readonly subject: string;
  readonly body: Doc;
}
