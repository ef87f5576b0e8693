import type { Field, Operator } from "./tree";

/** What needs no quotes wherever it stands. */
const PLAIN = /^[\p{L}\p{N}_/@-]+(?:\.[\p{L}\p{N}_/@-]+)*$/u;

/** A value as it is written in an expression: in quotes where it has to be. */
export const quoted = (value: string): string => (PLAIN.test(value) ? value : `"${value.replaceAll('"', '""')}"`);

/** A condition on a text, as an expression: `subject~"hut book"`. */
export const writeText = (field: Field, op: Operator, value: string): string => `${field}${op}${quoted(value)}`;

/** A condition that the field is exactly the value: `folder="Lost property"`. */
export const writeEquals = (field: Field, value: string): string => writeText(field, "=", value);
