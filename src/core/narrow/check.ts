import { accountName, folderFor, folderNamed, labelNamed, markerNamed, type Directory } from "../place";
import { fold } from "./fold";
import { parse } from "./parse";
import type { TextField } from "./row";
import { nearest, type Field, type Issue, type State, type Tree } from "./tree";
import { readAge, readDays, readSize, type Range } from "./values";

/** A checked expression: names are ids, times are instants. Both back ends are made from this alone. */
export type Test =
  | { readonly kind: "all" }
  | { readonly kind: "and" | "or"; readonly parts: readonly Test[] }
  | { readonly kind: "not"; readonly part: Test }
  | { readonly kind: "state"; readonly state: Exclude<State, "junk" | "unread" | "task"> }
  /** The folded text of the field holds `needle`. */
  | { readonly kind: "text"; readonly field: TextField; readonly needle: string; readonly whole: boolean }
  | { readonly kind: "folder"; readonly ids: readonly number[] }
  | { readonly kind: "label"; readonly ids: readonly number[] }
  | { readonly kind: "marker"; readonly ids: readonly number[] }
  | { readonly kind: "account"; readonly ids: readonly number[] }
  /** The folded words of the message, or with them those of its headers and attachments' names, hold `needle`. */
  | { readonly kind: "words"; readonly where: "any" | "body"; readonly needle: string }
  | ({ readonly kind: "range"; readonly field: RangeField } & Range)
  /** A task that is not done was made from it; one that is due then. */
  | { readonly kind: "task"; readonly due: Range | null };

export type RangeField = "size" | "date" | "due" | "deferred";

export interface NarrowContext {
  readonly directory: Directory;
  readonly now: Date;
  /** IANA name; days begin and end in it. */
  readonly zone: string;
}

/** What mail is in that came through no account there is: brought along, or left by one that was given up. */
export const LOCAL_ACCOUNT = "local";

export type Checked =
  { readonly ok: true; readonly test: Test } | { readonly ok: false; readonly issues: readonly Issue[] };

type Compare = Extract<Tree, { kind: "compare" }>;

/** What is expected where a value cannot be read. */
const EXAMPLES: Partial<Record<Field, string>> = {
  size: "size>1M",
  age: "age>7d",
  date: "date=2026-10-01..2026-10-31",
  due: "due<=today",
  deferred: "deferred<=tomorrow",
};

class Checker {
  readonly issues: Issue[] = [];
  constructor(private readonly context: NarrowContext) {}

  tree(tree: Tree): Test {
    switch (tree.kind) {
      case "all":
        return { kind: "all" };
      case "and":
      case "or":
        return { kind: tree.kind, parts: tree.parts.map((part) => this.tree(part)) };
      case "not":
        return { kind: "not", part: this.tree(tree.part) };
      case "state":
        return this.state(tree.state);
      case "word":
        return { kind: "words", where: "any", needle: this.needle(tree.text, tree.span).slice(0, -1) };
      case "compare":
        return this.compare(tree);
    }
  }

  private state(state: State): Test {
    if (state === "task") return { kind: "task", due: null };
    if (state === "unread") return { kind: "not", part: { kind: "state", state: "read" } };
    if (state !== "junk") return { kind: "state", state };
    const junk = folderFor(this.context.directory, "junk");
    return { kind: "folder", ids: junk ? [junk.id] : [] };
  }

  private needle(text: string, span: Tree["span"]): string {
    const folded = fold(text);
    if (folded === " ") this.issues.push({ code: "nothing-to-find", span, text });
    return folded;
  }

  private compare(tree: Compare): Test {
    switch (tree.field) {
      case "from":
      case "to":
      case "cc":
      case "via":
      case "file":
      case "list":
      case "note":
      case "subject":
        return this.text(tree, tree.field);
      case "body":
      case "text":
        return this.words(tree, tree.field === "body" ? "body" : "any");
      case "anyone":
        return { kind: "or", parts: [this.text(tree, "from"), this.text(tree, "to")] };
      case "folder":
      case "label":
      case "marker":
        return this.named(tree, tree.field);
      case "size":
        return this.range(tree, "size", readSize(tree.op, tree.value));
      case "age":
        return this.range(tree, "date", readAge(tree.op, tree.value, this.context.now.getTime()));
      case "due": {
        const due = readDays(tree.op, tree.value, this.context.now, this.context.zone);
        const flag = this.range(tree, "due", due);
        // What is to be done by then: the flag of a message, or a task made from it.
        return due ? { kind: "or", parts: [flag, { kind: "task", due }] } : flag;
      }
      case "date":
      case "deferred":
        return this.range(tree, tree.field, readDays(tree.op, tree.value, this.context.now, this.context.zone));
      case "account":
        return this.account(tree);
    }
  }

  /** "=" is whole words in a row, "~" words the last of which only begins so. */
  private words(tree: Compare, where: "any" | "body"): Test {
    if (tree.op !== "=" && tree.op !== "~") this.badOperator(tree, "= or ~");
    const needle = this.needle(tree.value, tree.valueSpan);
    return { kind: "words", where, needle: tree.op === "=" ? needle : needle.slice(0, -1) };
  }

  private account(tree: Compare): Test {
    if (tree.op !== "=" && tree.op !== "~") this.badOperator(tree, "= or ~");
    const { accounts = [] } = this.context.directory;
    const part = tree.value.trim().toLowerCase();
    const isMeant = (...names: readonly string[]) =>
      names.some((name) => (tree.op === "=" ? name.toLowerCase() === part : name.toLowerCase().includes(part)));
    const meant = accounts.filter(({ name, address }) => isMeant(name, address)).map(({ id }) => id);
    const named: Test = { kind: "account", ids: meant };
    if (isMeant(LOCAL_ACCOUNT)) {
      const others: Test = { kind: "not", part: { kind: "account", ids: accounts.map(({ id }) => id) } };
      return meant.length === 0 ? others : { kind: "or", parts: [named, others] };
    }
    if (meant.length === 0 && tree.op === "=")
      this.unknownName(tree, "account", [LOCAL_ACCOUNT, ...accounts.map(accountName)]);
    return named;
  }

  private unknownName(tree: Compare, what: string, names: readonly string[]): void {
    const near = nearest(tree.value, names);
    this.issues.push({ code: "unknown-name", span: tree.valueSpan, what, name: tree.value, near });
  }

  /**
   * "=" is whole words in a row (the whole of a subject); "~" words that begin so, or with a star in front any part,
   * as it always is for people.
   */
  private text(tree: Compare, field: TextField): Test {
    if (tree.op !== "=" && tree.op !== "~") this.badOperator(tree, "= or ~");
    const needle = this.needle(tree.value, tree.valueSpan);
    if (tree.op === "=") return { kind: "text", field, needle, whole: field === "subject" };
    const anywhere = (field !== "subject" && field !== "note") || tree.value.startsWith("*");
    return { kind: "text", field, needle: anywhere ? needle.trim() : needle.slice(0, -1), whole: false };
  }

  private named(tree: Compare, field: "folder" | "label" | "marker"): Test {
    if (tree.op !== "=" && tree.op !== "~") this.badOperator(tree, "= or ~");
    const { directory } = this.context;
    const things: readonly { id: number; name: string }[] = {
      folder: directory.folders.map((f) => ({ id: f.id, name: f.path })),
      label: directory.labels.map((l) => ({ id: l.id, name: l.name })),
      marker: directory.markers.map((m) => ({ id: m.id, name: m.letter })),
    }[field];
    if (tree.op === "~") {
      const part = tree.value.toLowerCase();
      return { kind: field, ids: things.filter((t) => t.name.toLowerCase().includes(part)).map((t) => t.id) };
    }
    const find = { folder: folderNamed, label: labelNamed, marker: markerNamed }[field];
    const found = find(directory, tree.value);
    // A label stands for those nested in it too.
    const under = `${tree.value.trim().toLowerCase()}/`;
    const nested =
      field === "label" ? things.filter(({ name }) => name.toLowerCase().startsWith(under)).map(({ id }) => id) : [];
    if (found || nested.length > 0) return { kind: field, ids: [...(found ? [found.id] : []), ...nested] };
    this.unknownName(
      tree,
      field,
      things.map((t) => t.name),
    );
    return { kind: field, ids: [] };
  }

  private range(tree: Compare, field: RangeField, range: Range | null): Test {
    if (tree.op === "~") this.badOperator(tree, "=, <, > or a range like a..b");
    if (range) return { kind: "range", field, ...range };
    const example = EXAMPLES[tree.field] ?? "";
    this.issues.push({ code: "bad-value", span: tree.valueSpan, field: tree.field, value: tree.value, example });
    return { kind: "all" };
  }

  private badOperator(tree: Compare, use: string): void {
    const from = tree.span.from + tree.field.length;
    const span = { from, to: from + tree.op.length };
    this.issues.push({ code: "bad-operator", span, field: tree.field, op: tree.op, use });
  }
}

/** Parses and checks an expression. Problems come back with spans; nothing is thrown for what a person typed. */
export function readNarrow(source: string, context: NarrowContext): Checked {
  const parsed = parse(source);
  if (!parsed.ok) return parsed;
  const checker = new Checker(context);
  const test = checker.tree(parsed.tree);
  return checker.issues.length > 0 ? { ok: false, issues: checker.issues } : { ok: true, test };
}
