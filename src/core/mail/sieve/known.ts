import type { Argument, Block, Command, Problem, Test } from "./script";

/**
 * What commands and tests take: RFC 5228, with imap4flags (5232), copy (3894), variables (5229), body (5173), date
 * (5260), relational (5231), subaddress (5233) and mailbox (5490).
 */
interface Signature {
  readonly extension?: string;
  /** Arguments by their place. */
  readonly takes: readonly ("text" | "texts" | "number")[];
  /** As many of them, from the first, may be left out. */
  readonly optional?: number;
  readonly tags?: Readonly<Record<string, Tag>>;
  readonly tests?: "one" | "many";
  readonly block?: true;
}

interface Tag {
  readonly value?: "text" | "texts" | "number";
  readonly extension?: string;
}

const COMPARISON: Record<string, Tag> = {
  is: {},
  contains: {},
  matches: {},
  comparator: { value: "text" },
  value: { value: "text", extension: "relational" },
  count: { value: "text", extension: "relational" },
};
const ADDRESS_PART: Record<string, Tag> = {
  all: {},
  localpart: {},
  domain: {},
  user: { extension: "subaddress" },
  detail: { extension: "subaddress" },
};
const FLAGS: Tag = { value: "texts", extension: "imap4flags" };

export const COMMANDS: Readonly<Record<string, Signature>> = {
  require: { takes: ["texts"] },
  if: { takes: [], tests: "one", block: true },
  elsif: { takes: [], tests: "one", block: true },
  else: { takes: [], block: true },
  stop: { takes: [] },
  keep: { takes: [], tags: { flags: FLAGS } },
  discard: { takes: [] },
  redirect: { takes: ["text"], tags: { copy: { extension: "copy" } } },
  fileinto: {
    extension: "fileinto",
    takes: ["text"],
    tags: { copy: { extension: "copy" }, create: { extension: "mailbox" }, flags: FLAGS },
  },
  setflag: { extension: "imap4flags", takes: ["text", "texts"], optional: 1 },
  addflag: { extension: "imap4flags", takes: ["text", "texts"], optional: 1 },
  removeflag: { extension: "imap4flags", takes: ["text", "texts"], optional: 1 },
  set: {
    extension: "variables",
    takes: ["text", "text"],
    tags: { lower: {}, upper: {}, lowerfirst: {}, upperfirst: {}, quotewildcard: {}, length: {} },
  },
};

export const TESTS: Readonly<Record<string, Signature>> = {
  true: { takes: [] },
  false: { takes: [] },
  not: { takes: [], tests: "one" },
  allof: { takes: [], tests: "many" },
  anyof: { takes: [], tests: "many" },
  exists: { takes: ["texts"] },
  size: { takes: ["number"], tags: { over: {}, under: {} } },
  header: { takes: ["texts", "texts"], tags: COMPARISON },
  address: { takes: ["texts", "texts"], tags: { ...COMPARISON, ...ADDRESS_PART } },
  envelope: { extension: "envelope", takes: ["texts", "texts"], tags: { ...COMPARISON, ...ADDRESS_PART } },
  body: {
    extension: "body",
    takes: ["texts"],
    tags: { ...COMPARISON, raw: {}, text: {}, content: { value: "texts" } },
  },
  date: {
    extension: "date",
    takes: ["text", "text", "texts"],
    tags: { ...COMPARISON, zone: { value: "text" }, originalzone: {} },
  },
  currentdate: { extension: "date", takes: ["text", "texts"], tags: { ...COMPARISON, zone: { value: "text" } } },
  hasflag: { extension: "imap4flags", takes: ["texts", "texts"], optional: 1, tags: COMPARISON },
  string: { extension: "variables", takes: ["texts", "texts"], tags: COMPARISON },
};

/** What was given to a command or test, by name and by place. */
export interface Given {
  /** Tags with their values; null for one without. */
  readonly tags: ReadonlyMap<string, Argument | null>;
  /** Arguments by their place; those left out are missing at the front. */
  readonly places: readonly Argument[];
}

const fits = (arg: Argument | undefined, kind: "text" | "texts" | "number"): boolean =>
  kind === "number" ? arg?.kind === "number" : arg?.kind === "texts" && (kind === "texts" || !arg.isList);

const WORDS = { text: "a text", texts: "texts", number: "a number" };

function takesText({ takes, optional = 0, tests, block }: Signature): string {
  const parts = [
    ...takes.map((kind, i) => `${WORDS[kind]}${i < optional ? " (or none)" : ""}`),
    ...(tests ? [tests === "one" ? "one test" : "tests in brackets"] : []),
    ...(block ? ["a block in { }"] : []),
  ];
  return parts.length === 0 ? "nothing behind it" : parts.join(", then ");
}

class Checker {
  readonly problems: Problem[] = [];
  readonly required = new Set<string>();

  private needs(node: Test, name: string, extension: string | undefined): void {
    if (extension === undefined || this.required.has(extension)) return;
    this.problems.push({ code: "not-required", span: node.span, name, extension });
    // Said once.
    this.required.add(extension);
  }

  /** @returns what was given, or null where it does not fit */
  given(node: Test, signature: Signature): Given | null {
    const tags = new Map<string, Argument | null>();
    const places: Argument[] = [];
    this.needs(node, node.name, signature.extension);
    for (let i = 0; i < node.args.length; i++) {
      const arg = node.args[i]!;
      if (arg.kind !== "tag") {
        places.push(arg);
        continue;
      }
      const known = signature.tags && Object.hasOwn(signature.tags, arg.name) ? signature.tags[arg.name] : undefined;
      if (!known) {
        this.problems.push({ code: "unknown-tag", span: arg.span, name: arg.name, of: node.name });
        return null;
      }
      this.needs(node, `:${arg.name}`, known.extension);
      const value = known.value === undefined ? null : node.args[++i];
      if (known.value !== undefined && !fits(value ?? undefined, known.value)) {
        this.problems.push({
          code: "arguments",
          span: arg.span,
          of: `:${arg.name}`,
          takes: `${WORDS[known.value]} behind it`,
        });
        return null;
      }
      tags.set(arg.name, value ?? null);
    }
    const { takes, optional = 0 } = signature;
    const missing = takes.length - places.length;
    const rightNumber = missing >= 0 && missing <= optional;
    if (rightNumber && places.every((arg, i) => fits(arg, takes[i + missing]!))) return { tags, places };
    return this.unfit(node, signature);
  }

  private unfit(node: Test, signature: Signature): null {
    this.problems.push({ code: "arguments", span: node.span, of: node.name, takes: takesText(signature) });
    return null;
  }

  test(node: Test): void {
    const signature = Object.hasOwn(TESTS, node.name) ? TESTS[node.name] : undefined;
    if (!signature) {
      this.problems.push({ code: "unknown", span: node.span, what: "test", name: node.name });
      return;
    }
    const count = node.tests.length;
    const fit = signature.tests === "one" ? count === 1 : signature.tests === "many" ? count > 0 : count === 0;
    if (!fit) this.unfit(node, signature);
    else this.given(node, signature);
    node.tests.forEach((inner) => this.test(inner));
  }

  command(node: Command, before: Command | undefined): void {
    const signature = Object.hasOwn(COMMANDS, node.name) ? COMMANDS[node.name] : undefined;
    if (!signature) {
      this.problems.push({ code: "unknown", span: node.span, what: "command", name: node.name });
      return;
    }
    if ((node.name === "elsif" || node.name === "else") && before?.name !== "if" && before?.name !== "elsif")
      this.problems.push({ code: "else-alone", span: node.span, name: node.name });
    const fit = (node.block !== null) === (signature.block === true) && node.tests.length === (signature.tests ? 1 : 0);
    if (!fit) this.unfit(node, signature);
    else {
      const given = this.given(node, signature);
      const [names] = given?.places ?? [];
      if (node.name === "require" && names?.kind === "texts") names.texts.forEach((name) => this.required.add(name));
    }
    node.tests.forEach((inner) => this.test(inner));
    if (node.block) this.block(node.block);
  }

  block({ commands }: Block): void {
    commands.forEach((command, i) => this.command(command, commands[i - 1]));
  }
}

/** What of a script does not fit together: unknown names, wrong arguments, extensions that are not required. */
export function checkScript(script: Block): Problem[] {
  const checker = new Checker();
  checker.block(script);
  return checker.problems;
}

/** What was given to a command or test; null where it is unknown or does not fit. */
export function givenTo(node: Test, isCommand: boolean): Given | null {
  const table = isCommand ? COMMANDS : TESTS;
  const signature = Object.hasOwn(table, node.name) ? table[node.name] : undefined;
  return signature ? new Checker().given(node, signature) : null;
}

/** The extensions a script uses, in the order of the alphabet. */
export function extensionsOf(script: Block): string[] {
  const found = new Set<string>();
  for (const problem of checkScript({ ...script, commands: script.commands.filter(({ name }) => name !== "require") }))
    if (problem.code === "not-required") found.add(problem.extension);
  return [...found].sort();
}
