import {
  checkScript,
  command,
  parseScript,
  placeIn,
  textOfProblem,
  texts,
  type Block,
  type Command,
  type Test,
} from "../../mail/sieve";
import { DEEPEST, MOST_STEPS, stepsSchema, type Step } from "../../macro";
import { LONGEST_EXPRESSION, parse } from "../../narrow";
import { labelNamed, markerNamed, type Directory } from "../../place";
import { isMarkerKeyword, nameOfKeyword, wordsOf } from "../../sync";
import { cut } from "../../text";
import { LONGEST_REMARK } from "../remark";
import { allSaid, ConditionsIn, EVERY, notSaid, type InContext, type Meaning, type Said } from "./conditions-in";
import { not, PLACE, placeIs } from "./conditions-out";
import { FOR_LIST, nearText, REMARK, type Near } from "./notes";
import { chained, eitherWay, StepsIn, type Before, type Chain, type LeftCommand } from "./steps-in";

/** A rule as it is taken in. */
export interface InRule {
  /** What its macro is called. */
  readonly name: string;
  readonly narrow: string;
  readonly list: { readonly name: string; readonly addresses: readonly string[] } | null;
  readonly steps: readonly Step[];
  readonly stop: boolean;
  /** What the script said of it, with what of it could not be taken. */
  readonly remark: string | null;
  readonly near: readonly string[];
}

/** Something in a script, by line and column from one. */
export interface Spot {
  readonly line: number;
  readonly column: number;
  readonly why: string;
}

export type TakenIn =
  | { readonly ok: true; readonly rules: readonly InRule[]; readonly left: readonly Spot[] }
  /** Not a script that can be read. */
  | { readonly ok: false; readonly problems: readonly Spot[] };

const LONGEST_NAME = 80;

const key = (test: Test | undefined): string =>
  JSON.stringify(
    test && [
      test.name,
      test.args.map((a) => (a.kind === "texts" ? a.texts : a.kind === "tag" ? a.name : a.value)),
      test.tests.map(key),
    ],
  );

/** Files what was noted: it says nothing by itself. */
const NOTED = key(not(placeIs("")));
const INTO_NOTED = key(command("fileinto", [texts(`\${${PLACE}}`)]));
const filesNoted = ({ name, tests, block }: Command): boolean =>
  name === "if" && key(tests[0]) === NOTED && block?.commands.length === 1 && key(block.commands[0]) === INTO_NOTED;

const hasStop = (block: Block | null): boolean =>
  block?.commands.some((one) => one.name === "stop" || hasStop(one.block)) ?? false;

/** Whether a block stops anywhere but at its end. */
const stopsInside = ({ block }: Command): boolean =>
  block?.commands.some((one, i, all) => (one.name === "stop" ? i < all.length - 1 : hasStop(one.block))) ?? false;

/** Whether nothing goes on behind a block. */
const surelyStops = ({ commands }: Block): boolean => commands.some(({ name }) => name === "stop");

/** What the comments before a command say. */
function saidBy(comments: readonly string[]): { name: string | null; list: string | null; remark: string[] } {
  const first = comments.findLastIndex((line) => /^\d+: ./.test(line));
  const own = comments
    .slice(Math.max(0, first))
    .map((line) => line.trim())
    .filter(Boolean);
  if (first < 0) return { name: own.at(-1) ?? null, list: null, remark: own.slice(0, -1) };
  const begun = (prefix: string) =>
    own.filter((line) => line.startsWith(prefix)).map((line) => line.slice(prefix.length));
  return { name: own[0]!.replace(/^\d+: /, ""), list: begun(FOR_LIST)[0] ?? null, remark: begun(REMARK) };
}

/** What a rule is for, as it is put together on the way into a script. */
interface Path {
  readonly conditions: readonly Said[];
  readonly near: readonly Near[];
}

class Taker {
  readonly rules: InRule[] = [];
  readonly left: LeftCommand[] = [];
  private readonly before: Before = { filed: false, kept: false, flagged: false, thrown: false };
  private remarks: string[] = [];

  constructor(
    private readonly source: string,
    private readonly context: InContext,
    private readonly noted: boolean,
  ) {}

  private leave(node: Test, why: string): void {
    this.left.push({ node, why });
    this.remarks.push(this.writtenAs(node));
  }

  private writtenAs = ({ span }: Test): string => `not taken in: ${this.source.slice(span.from, span.to)}`;

  /** Commands one after another, each for the messages of the path. */
  block({ commands }: Block, path: Path, comments: readonly string[] = []): void {
    let group: Command[] = [];
    const flush = (stop: Command | null) => {
      const at = group[0] ?? stop;
      if (at) this.rule(at, group, stop !== null, path, [...comments, ...at.comments]);
      group = [];
    };
    for (const one of chained(commands)) {
      if ("branches" in one) {
        if (filesNoted(one.branches[0]!)) continue;
        flush(null);
        this.chain(one, path);
      } else if (one.name === "stop") {
        flush(one);
        const [next] = commands.filter(({ span }) => span.from >= one.span.to);
        if (next) this.leave(next, "It is never reached, nor is what follows it.");
        return;
      } else if (one.name !== "require") group.push(one);
    }
    flush(null);
  }

  private chain({ branches }: Chain, path: Path): void {
    // What depends on what was done before cannot be asked again after something was done.
    const asks = branches.some(({ tests: [one] }) => one && this.asksState(one));
    const isOne = branches.length === 1 && path.conditions.length === 0 && !branches.some(stopsInside);
    if (asks && !isOne) return this.whole(branches, path);
    const at = { ...this.before };
    const after = { ...at };
    const others: Said[] = [];
    const near: Near[] = [...path.near];
    for (const [i, branch] of branches.entries()) {
      const { block, tests } = branch;
      if (!block) continue;
      const conditions = new ConditionsIn(this.context);
      const senders = i === 0 && path.conditions.length === 0 ? sendersIn(tests[0]) : null;
      const own = branch.name === "else" ? EVERY : tests[0] ? conditions.test(senders ? senders.rest : tests[0]) : null;
      // Those behind it hang on all of it.
      const all = senders ? new ConditionsIn(this.context) : conditions;
      const whole = senders && tests[0] ? all.test(tests[0]) : own;
      if (!own || !whole) {
        for (const rest of branches.slice(i))
          this.leave(
            rest,
            rest === branch
              ? (conditions.why ?? `“${branch.name}” has no test.`)
              : "It hangs on what could not be taken.",
          );
        break;
      }
      near.push(...conditions.near);
      Object.assign(this.before, at);
      this.branch(
        branch,
        block,
        { conditions: [...path.conditions, ...others, own], near },
        senders?.addresses ?? null,
      );
      if (surelyStops(block)) continue;
      eitherWay(after, this.before);
      // Nothing is left for those behind one that is for every message.
      if (whole.text === "") break;
      others.push(notSaid(whole));
      near.push(...all.near);
    }
    Object.assign(this.before, after);
  }

  private asksState(test: Test): boolean {
    const conditions = new ConditionsIn(this.context);
    conditions.test(test);
    return conditions.asksState;
  }

  /** One branch: as one rule, unless it stops in the middle. */
  private branch(branch: Command, block: Block, path: Path, senders: readonly string[] | null): void {
    const { commands } = block;
    const tail = commands.at(-1)?.name === "stop" ? commands.slice(0, -1) : commands;
    const body = tail.filter((one) => !filesNoted(one));
    if (!stopsInside(branch)) this.rule(branch, body, tail.length < commands.length, path, branch.comments, senders);
    else if (senders) this.leave(branch, "It stops in the middle for a list of senders.");
    else this.block(block, path, branch.comments);
  }

  /** An "if" that cannot be taken apart, as steps of one rule. */
  private whole(branches: readonly Command[], path: Path): void {
    const [first] = branches;
    if (first && !branches.some(({ block }) => hasStop(block)))
      return this.rule(first, branches, false, path, first.comments);
    for (const branch of branches) {
      const conditions = new ConditionsIn(this.context);
      if (branch.tests[0]) conditions.test(branch.tests[0]);
      this.leave(branch, conditions.why ?? "It stops by what was done before.");
    }
  }

  private rule(
    at: Test,
    commands: readonly Command[],
    stop: boolean,
    { conditions, near }: Path,
    comments: readonly string[],
    senders: readonly string[] | null = null,
  ): void {
    const codes = new Set(near);
    const reader = new StepsIn(this.context, this.before, this.noted, codes);
    const done = reader.steps(commands);
    this.left.push(...reader.left);
    const said = saidBy(comments);
    this.remarks.push(...said.remark, ...reader.left.map(({ node }) => this.writtenAs(node)));
    const narrow = allSaid(conditions).text;
    const read = parse(narrow);
    if (!read.ok) {
      this.leave(at, `Its condition is longer than one here may be (${LONGEST_EXPRESSION} characters).`);
      return;
    }
    if (!stepsSchema.safeParse(done).success) {
      this.leave(at, `It comes to more than a macro may hold: ${MOST_STEPS} steps, and conditions ${DEEPEST} deep.`);
      return;
    }
    if (done.length === 0 && !stop) return;
    const name = cut(said.name ?? `Sieve rule ${this.rules.length + 1}`, LONGEST_NAME).trim();
    this.rules.push({
      name,
      narrow,
      list: senders && { name: cut(said.list ?? `Senders of ${name}`, LONGEST_NAME), addresses: senders },
      steps: done.length === 0 ? [{ do: "stop" }] : done,
      stop,
      remark: this.takeRemarks(),
      near: nearText(codes),
    });
  }

  private takeRemarks(): string | null {
    const text = this.remarks.join("\n");
    this.remarks = [];
    return text === "" ? null : cut(text, LONGEST_REMARK);
  }

  /** What is left behind the last rule is kept with it. */
  ended(): readonly InRule[] {
    const rest = this.takeRemarks();
    const last = this.rules.at(-1);
    if (rest === null || !last) return this.rules;
    const remark = cut([last.remark, rest].filter((text) => text !== null).join("\n"), LONGEST_REMARK);
    return [...this.rules.slice(0, -1), { ...last, remark }];
  }
}

/** A test that is for the senders on a list: who they are, and what else it asks. */
function sendersIn(test: Test | undefined): { addresses: readonly string[]; rest: Test } | null {
  if (!test) return null;
  const parts = test.name === "allof" ? test.tests : [test];
  const at = parts.findIndex(
    ({ name, args }) =>
      name === "address" &&
      args.every((arg) => arg.kind === "texts" || (arg.kind === "tag" && (arg.name === "is" || arg.name === "all"))) &&
      args.filter((arg) => arg.kind === "texts").length === 2 &&
      args.some((arg) => arg.kind === "texts" && arg.texts.join().toLowerCase() === "from"),
  );
  const found = parts[at]?.args.filter((arg) => arg.kind === "texts")[1];
  if (found?.kind !== "texts" || found.texts.length < 2) return null;
  const rest = parts.filter((_, i) => i !== at);
  const all = { ...test, name: rest.length === 0 ? "true" : "allof", args: [], tests: rest };
  return { addresses: [...new Set(found.texts.map((one) => one.toLowerCase()))], rest: all };
}

function meaningIn(directory: Directory): (flag: string) => Meaning | null {
  const words = wordsOf(directory);
  const labels = new Map(directory.labels.map(({ id, name }) => [words.labels.get(id)?.toLowerCase(), name]));
  return (flag) => {
    const lower = flag.toLowerCase();
    if (lower === "\\seen") return { is: "read" };
    if (lower === "\\flagged") return { is: "flagged" };
    if (flag.startsWith("\\") || flag.includes("${")) return null;
    if (isMarkerKeyword(flag)) {
      const marker = markerNamed(directory, flag.slice(-1));
      return marker ? { is: "marker", letter: marker.letter } : null;
    }
    const name = labels.get(lower) ?? nameOfKeyword(flag);
    return { is: "label", name: labelNamed(directory, name)?.name ?? cut(name, LONGEST_NAME) };
  };
}

/**
 * A Sieve script as rules, in its order. Nothing of it is lost: what has no like here is listed, and kept in the remark
 * of the rule it stood in or before.
 */
export function takeIn(source: string, directory: Directory, zone: string): TakenIn {
  const { script, problems } = parseScript(source);
  const spot = (at: number, why: string): Spot => ({ ...placeIn(source, at), why });
  if (problems.length > 0)
    return { ok: false, problems: problems.map((one) => spot(one.span.from, textOfProblem(one))) };
  const noted = script.commands.some(filesNoted);
  const context = { directory, zone, meaningOf: meaningIn(directory) };
  const taker = new Taker(source, context, noted);
  taker.block(script, { conditions: [], near: [] });
  const rules = taker.ended();
  const left = taker.left.map(({ node, why }) => ({ at: node.span.from, why }));
  for (const one of checkScript(script))
    if (one.code === "not-required" || one.code === "else-alone")
      left.push({ at: one.span.from, why: textOfProblem(one) });
  return { ok: true, rules, left: left.sort((a, b) => a.at - b.at).map(({ at, why }) => spot(at, why)) };
}
