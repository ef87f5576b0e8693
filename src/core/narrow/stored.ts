import { parse } from "./parse";
import type { Tree } from "./tree";
import { quoted } from "./write";

/**
 * Expressions that are kept name folders, labels and markers by id, so that a renamed one is followed and
 * another one that takes its old name is not. People see and write names; the parser says where they stand.
 */
export type RefKind = "folder" | "label" | "marker" | "account" | "macro";

/** A name that stands for something there was when it was stored. */
export interface Ref {
  readonly ref: RefKind;
  readonly id: number;
  /** What it was called then; shown where it is no more. */
  readonly name: string;
}

/** An expression, or where it names things, its pieces. */
export type StoredNarrow = string | { readonly pieces: readonly (string | Ref)[] };

/** @returns null where nothing has that name */
export type IdOf = (kind: RefKind, name: string) => number | null;
/** @returns null where nothing has that id */
export type NameOf = (kind: RefKind, id: number) => string | null;

const NAMING: readonly string[] = ["folder", "label", "marker", "account"] satisfies RefKind[];

type Compare = Extract<Tree, { kind: "compare" }>;

function* naming(tree: Tree): Generator<Compare> {
  if (tree.kind === "and" || tree.kind === "or") for (const part of tree.parts) yield* naming(part);
  else if (tree.kind === "not") yield* naming(tree.part);
  else if (tree.kind === "compare" && tree.op === "=" && NAMING.includes(tree.field)) yield tree;
}

export const refTo = (kind: RefKind, name: string, idOf: IdOf): Ref | null => {
  const id = idOf(kind, name);
  return id === null ? null : { ref: kind, id, name };
};

/** An expression as it is kept. One that cannot be read, or names nothing that is there, stays as it is written. */
export function storeNarrow(source: string, idOf: IdOf): StoredNarrow {
  const parsed = parse(source);
  if (!parsed.ok) return source;
  const pieces: (string | Ref)[] = [];
  let at = 0;
  for (const { field, value, valueSpan } of naming(parsed.tree)) {
    const ref = refTo(field as RefKind, value, idOf);
    if (!ref) continue;
    pieces.push(source.slice(at, valueSpan.from), ref);
    at = valueSpan.to;
  }
  return pieces.length === 0 ? source : { pieces: [...pieces, source.slice(at)] };
}

/** The expression as it is shown and read, with the names of today. */
export const loadNarrow = (stored: StoredNarrow, nameOf: NameOf): string =>
  typeof stored === "string"
    ? stored
    : stored.pieces
        .map((piece) => (typeof piece === "string" ? piece : quoted(nameOf(piece.ref, piece.id) ?? piece.name)))
        .join("");
