import { tag, test, texts, type Test } from "../../mail/sieve";
import { parse, readNarrow, type NarrowContext, type Tree } from "../../narrow";
import { isAddress } from "../../letter";
import { folderFor } from "../../place";
import { keywordOf, markerKeyword } from "../../sync";
import type { Near } from "./notes";
import { beginning, isPlainWord } from "./words";

/** Conditions as tests of a script. */

type Compare = Extract<Tree, { kind: "compare" }>;

/** The variable in which a script notes where a message is to go. */
export const PLACE = "folder";
export const placeIs = (...paths: readonly string[]): Test =>
  test("string", [tag("is"), texts(`\${${PLACE}}`), texts(...paths)]);

export const hasFlag = (...flags: readonly string[]): Test => test("hasflag", [texts(...flags)]);
const ALWAYS = test("true");
const NEVER = test("false");

export function not(inner: Test): Test {
  if (inner.name === "true") return NEVER;
  if (inner.name === "false") return ALWAYS;
  return inner.name === "not" ? inner.tests[0]! : test("not", [], [inner]);
}

export function allOf(tests: readonly Test[]): Test {
  const asks = tests.filter(({ name }) => name !== "true");
  if (asks.some(({ name }) => name === "false")) return NEVER;
  return asks.length > 1 ? test("allof", [], asks) : (asks[0] ?? ALWAYS);
}

function anyOf(tests: readonly Test[]): Test {
  const may = tests.filter(({ name }) => name !== "false");
  if (may.some(({ name }) => name === "true")) return ALWAYS;
  return may.length > 1 ? test("anyof", [], may) : (may[0] ?? NEVER);
}

/** Where our fields are looked for. */
const HEADERS: Partial<Record<Compare["field"], readonly string[]>> = {
  from: ["from"],
  to: ["to", "cc"],
  cc: ["cc"],
  anyone: ["from", "to", "cc"],
  subject: ["subject"],
  list: ["list-id"],
  via: ["to", "cc", "delivered-to", "x-original-to", "envelope-to"],
};

/** An instant as a script compares it: text by text, in one zone. */
const instantText = (ms: number): string => new Date(ms).toISOString().replace(/\.\d+Z$/, "+00:00");

export class ConditionsOut {
  readonly near = new Set<Near>();
  /** What of them cannot be said, as it is written. */
  readonly unsaid: string[] = [];
  /** Whether they ask where a message is by then. */
  asksPlace = false;

  constructor(private readonly context: NarrowContext) {}

  /** @param source that can be read */
  test(source: string): Test {
    const parsed = parse(source);
    return parsed.ok ? this.tree(parsed.tree, source) : this.cannot(source);
  }

  private cannot(written: string): Test {
    this.unsaid.push(written);
    return NEVER;
  }

  private tree(tree: Tree, source: string): Test {
    const written = source.slice(tree.span.from, tree.span.to);
    switch (tree.kind) {
      case "all":
        return ALWAYS;
      case "and":
        return allOf(tree.parts.map((part) => this.tree(part, source)));
      case "or":
        return anyOf(tree.parts.map((part) => this.tree(part, source)));
      case "not":
        return not(this.tree(tree.part, source));
      case "word":
        return tree.text.includes("${") ? this.cannot(written) : this.words("text", "~", tree.text);
      case "state":
        return this.state(tree.state) ?? this.cannot(written);
      case "compare":
        return (tree.value.includes("${") ? null : this.compare(tree, written)) ?? this.cannot(written);
    }
  }

  private state(state: Extract<Tree, { kind: "state" }>["state"]): Test | null {
    if (state === "read") return hasFlag("\\Seen");
    if (state === "unread") return not(hasFlag("\\Seen"));
    if (state === "flagged") return hasFlag("\\Flagged");
    if (state === "junk") return this.inFolders(this.idsOf("junk"));
    if (state === "marked") return this.markers(this.context.directory.markers.map(({ id }) => id));
    // Rules look at nobody's own mail.
    if (state === "mine") return NEVER;
    if (state !== "listmail") return null;
    return anyOf(["list-id", "list-unsubscribe"].map((name) => test("exists", [texts(name)])));
  }

  private idsOf(role: "junk"): number[] {
    const folder = folderFor(this.context.directory, role);
    return folder ? [folder.id] : [];
  }

  private compare(tree: Compare, written: string): Test | null {
    switch (tree.field) {
      case "subject":
      case "from":
      case "to":
      case "cc":
      case "anyone":
      case "list":
      case "via":
        return this.text(tree.field, tree.op, tree.value);
      case "body":
      case "text":
        return this.words(tree.field, tree.op, tree.value);
      case "folder":
      case "label":
      case "marker":
      case "size":
      case "date":
        return this.checked(tree, written);
      case "file":
      case "note":
      case "age":
      case "due":
      case "deferred":
      case "account":
        return null;
    }
  }

  private text(field: Compare["field"], op: string, value: string): Test {
    const headers = texts(...HEADERS[field]!);
    if (field === "via") this.near.add("own");
    if (field === "list") this.near.add("list");
    if (op === "=" && field === "from" && isAddress(value.trim())) {
      this.near.add("signs");
      return test("address", [tag("is"), headers, texts(value.trim())]);
    }
    if (op === "=" && field === "subject") {
      this.near.add("signs");
      return test("header", [tag("is"), headers, texts(value)]);
    }
    const anywhere = field !== "subject" || value.startsWith("*");
    const sought = value.replace(/^\*/, "");
    if (op === "~" && anywhere) return test("header", [tag("contains"), headers, texts(this.plain(sought))]);
    if (op === "=" && !isPlainWord(value)) {
      this.near.add("signs");
      return test("header", [tag("contains"), headers, texts(value)]);
    }
    if (op === "=") this.near.add("whole");
    return test("header", [tag("matches"), headers, texts(...beginning(this.plain(sought)))]);
  }

  /** A text without the signs at its ends, which never count; where it is more than a plain word, as it is written. */
  private plain(value: string): string {
    const bare = value.replace(/^[^\p{L}\p{N}]+|[^\p{L}\p{N}]+$/gu, "").toLowerCase();
    if (isPlainWord(bare)) return bare;
    this.near.add("signs");
    return value.trim();
  }

  private words(field: "body" | "text", op: string, value: string): Test {
    if (op === "=") this.near.add("whole");
    const plain = this.plain(value);
    const patterns = (lines: boolean) => texts(...beginning(plain, lines));
    const inBody = test("body", [tag("text"), tag("matches"), patterns(true)]);
    if (field === "body") return inBody;
    this.near.add("files");
    return anyOf([test("header", [tag("matches"), texts("subject", "from", "to", "cc"), patterns(false)]), inBody]);
  }

  /** What names things, or means a stretch: as it is checked. */
  private checked(tree: Compare, written: string): Test | null {
    const read = readNarrow(written, this.context);
    if (!read.ok) return null;
    const { test: meant } = read;
    if (meant.kind === "folder") return this.inFolders(meant.ids);
    if (meant.kind === "label") return this.labels(meant.ids);
    if (meant.kind === "marker") return this.markers(meant.ids);
    if (meant.kind !== "range") return null;
    return tree.field === "size" ? this.size(meant.from, meant.to) : this.dates(meant.from, meant.to);
  }

  private inFolders(ids: readonly number[]): Test {
    this.asksPlace = true;
    const inbox = folderFor(this.context.directory, "inbox")?.id;
    const paths = this.context.directory.folders.filter(({ id }) => ids.includes(id));
    // Where nothing is noted it stays in the inbox.
    return paths.length === 0 ? NEVER : placeIs(...paths.map(({ id, path }) => (id === inbox ? "" : path)));
  }

  private labels(ids: readonly number[]): Test | null {
    const words = this.context.directory.labels.filter(({ id }) => ids.includes(id)).map(({ name }) => keywordOf(name));
    const known = words.filter((word) => word !== null);
    if (known.length < words.length) return null;
    return known.length === 0 ? NEVER : hasFlag(...known);
  }

  private markers(ids: readonly number[]): Test {
    const words = this.context.directory.markers
      .filter(({ id }) => ids.includes(id))
      .map(({ letter }) => markerKeyword(letter));
    return words.length === 0 ? NEVER : hasFlag(...words);
  }

  private size(from: number | null, to: number | null): Test {
    const bytes = (name: "over" | "under", value: number) =>
      test("size", [tag(name), { kind: "number", value, span: { from: 0, to: 0 } }]);
    return allOf([
      from === null || from <= 0 ? ALWAYS : bytes("over", Math.ceil(from) - 1),
      to === null ? ALWAYS : bytes("under", Math.ceil(to)),
    ]);
  }

  private dates(from: number | null, to: number | null): Test {
    const at = (relation: "ge" | "lt", ms: number) =>
      test("date", [
        tag("zone"),
        texts("+0000"),
        tag("value"),
        texts(relation),
        tag("comparator"),
        texts("i;octet"),
        texts("date"),
        texts("iso8601"),
        texts(instantText(ms)),
      ]);
    return allOf([from === null ? ALWAYS : at("ge", from), to === null ? ALWAYS : at("lt", to)]);
  }
}
