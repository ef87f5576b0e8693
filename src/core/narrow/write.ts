import type { Field } from "./tree";

/** What needs no quotes wherever it stands. */
const PLAIN = /^[\p{L}\p{N}_/@-]+(?:\.[\p{L}\p{N}_/@-]+)*$/u;

/** A condition that the field is exactly the value, as an expression: `folder="Lost property"`. */
export const writeEquals = (field: Field, value: string): string =>
  `${field}=${PLAIN.test(value) ? value : `"${value.replaceAll('"', '""')}"`}`;
