import { conditionsIn } from "./parts";
import { parse } from "./parse";
import { STATES, type State, type Tree } from "./tree";
import { quoted, writeText } from "./write";

/** An expression as a form: what a form has a field for, and the rest as it was written. */
export interface NarrowForm {
  readonly from: string;
  readonly to: string;
  readonly subject: string;
  /** Words anywhere: as typed, so that words in quotes stay together. */
  readonly words: string;
  readonly file: string;
  readonly folder: string;
  readonly label: string;
  readonly marker: string;
  /** "7d": older than that. */
  readonly older: string;
  readonly newer: string;
  /** "1M": larger than that. */
  readonly larger: string;
  readonly since: string;
  readonly until: string;
  readonly states: readonly State[];
  /** Conditions that the form has no field for. */
  readonly rest: readonly string[];
}

export const EMPTY_FORM: NarrowForm = {
  from: "",
  to: "",
  subject: "",
  words: "",
  file: "",
  folder: "",
  label: "",
  marker: "",
  older: "",
  newer: "",
  larger: "",
  since: "",
  until: "",
  states: [],
  rest: [],
};

/** Fields of the form that are one condition each. */
const CONDITIONS = {
  from: ["from", "~"],
  to: ["to", "~"],
  subject: ["subject", "~"],
  file: ["file", "~"],
  folder: ["folder", "="],
  label: ["label", "="],
  marker: ["marker", "="],
  older: ["age", ">"],
  newer: ["age", "<"],
  larger: ["size", ">"],
  since: ["date", ">="],
  until: ["date", "<="],
} as const;
type Name = keyof typeof CONDITIONS;
const NAMES = Object.keys(CONDITIONS) as Name[];

function nameOf(tree: Tree): Name | undefined {
  if (tree.kind !== "compare") return undefined;
  return NAMES.find((name) => CONDITIONS[name][0] === tree.field && CONDITIONS[name][1] === tree.op);
}

/** An expression as a form. Nothing is lost: what has no field, or is there twice, is in the rest. */
export function formOf(source: string): NarrowForm {
  const form: { -readonly [K in keyof NarrowForm]: NarrowForm[K] } = { ...EMPTY_FORM };
  for (const condition of conditionsIn(source)) {
    const parsed = parse(condition);
    const tree = parsed.ok ? parsed.tree : null;
    const name = tree ? nameOf(tree) : undefined;
    if (tree?.kind === "state") form.states = [...form.states, tree.state];
    else if (tree?.kind === "word") form.words = `${form.words} ${condition}`.trim();
    else if (tree?.kind === "compare" && name && form[name] === "") form[name] = tree.value;
    else form.rest = [...form.rest, condition];
  }
  return form;
}

/** What was typed as words: each a word, or several in quotes. A state's name is meant as a word here. */
function wordsIn(text: string): string[] {
  const found = text.match(/"(?:[^"]|"")*"?|[^\s"]+/g) ?? [];
  return found.map((word) => {
    const bare = word.replace(/^"|"$/g, "").replaceAll('""', '"');
    return (STATES as readonly string[]).includes(bare) ? `"${bare}"` : quoted(bare);
  });
}

/** A form as an expression. */
export function writeForm(form: NarrowForm): string {
  return [
    ...NAMES.flatMap((name) => {
      const value = form[name].trim();
      const [field, op] = CONDITIONS[name];
      return value === "" ? [] : [writeText(field, op, value)];
    }),
    ...form.states,
    ...wordsIn(form.words),
    ...form.rest,
  ].join(" & ");
}
