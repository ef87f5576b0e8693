import {
  block,
  command,
  extensionsOf,
  printScript,
  tag,
  test,
  texts,
  when,
  type Command,
  type Test,
} from "../../mail/sieve";
import type { NamedMacro, Settings, Step } from "../../macro";
import type { NarrowContext } from "../../narrow";
import type { RuleTime } from "../unattended";
import { allOf, ConditionsOut, not, PLACE, placeIs } from "./conditions-out";
import { FOR_LIST, nearText, REMARK } from "./notes";
import { filings, StepsOut, type Filing } from "./steps-out";

/** A rule as it is handed out. */
export interface OutRule {
  readonly narrow: string;
  readonly time: RuleTime;
  readonly on: boolean;
  readonly stop: boolean;
  /** Its list of senders, and who is on it; null for everybody's mail. */
  readonly list: { readonly name: string; readonly addresses: readonly string[] } | null;
  /** null where it was deleted. */
  readonly macro: { readonly name: string; readonly steps: readonly Step[]; readonly settings: Settings } | null;
  readonly remark: string | null;
}

export interface HandedOut {
  readonly script: string;
  /** What could not be said, and what there means a little more or less, by the rule's place from one. */
  readonly notes: readonly { readonly rule: number; readonly left: string | null; readonly near: readonly string[] }[];
}

/** One rule on its way out. */
interface Said {
  readonly condition: Test;
  /** What is done; nothing where it is left out. */
  readonly commands: readonly Command[];
  /** Whether it ends the script for what it is for. */
  readonly stops: boolean;
  readonly left: string | null;
  readonly near: readonly string[];
  readonly asksPlace: boolean;
}

function whyNot({ time, on, macro, list }: OutRule): string | null {
  if (time === "sending") return "It is for letters as you send them.";
  if (!on) return "It is switched off.";
  if (list?.addresses.length === 0) return "Nobody is on its list.";
  return macro ? null : "Its macro was deleted.";
}

function say(rule: OutRule, context: NarrowContext, macros: readonly NamedMacro[], filing: Filing): Said {
  const conditions = new ConditionsOut(context);
  const own = conditions.test(rule.narrow);
  const canAsk = conditions.unsaid.length === 0;
  const steps = new StepsOut(conditions, context.directory, macros, filing);
  const commands = rule.macro ? steps.macro(rule.macro) : [];
  const senders = rule.list && test("address", [tag("is"), texts("from"), texts(...rule.list.addresses)]);
  const cannot = [...new Set([...conditions.unsaid.map((text) => `“${text}”`), ...steps.unsaid])];
  const never = whyNot(rule);
  const condition = allOf([...(senders ? [senders] : []), own]);
  const none = canAsk && condition.name === "false" ? "It means no mail that comes in." : null;
  const left = never ?? none ?? (cannot.length === 0 ? null : `It cannot be said there: ${cannot.join(", ")}.`);
  // What cannot be done there can still be left alone by the rules behind it.
  const stops = rule.stop && never === null && none === null && canAsk;
  const isLost = rule.stop && never === null && !canAsk;
  return {
    condition,
    commands: left === null ? commands : [],
    stops,
    left,
    near: nearText([...(left === null ? conditions.near : []), ...(isLost ? (["after"] as const) : [])]),
    asksPlace: conditions.asksPlace,
  };
}

/** Whether nothing is done to a message behind its filing, on any way through. */
const isFiledLast = (commands: readonly Command[]): boolean =>
  commands.every((one, i) => {
    if (filings([one]) === 0) return true;
    const next = commands.slice(i + 1).find(({ name }) => name !== "else");
    return next === undefined && (one.block === null || isFiledLast(one.block.commands));
  });

/** Whether each message is filed at most once and nothing comes behind that: then it may be filed at once. */
function isPlain(said: readonly Said[]): boolean {
  const does = said.map(({ commands }) => commands.length > 0);
  return said.every(({ asksPlace, commands, stops }, i) => {
    if (asksPlace) return false;
    if (filings(commands) === 0) return true;
    return isFiledLast(commands) && (stops || !does.includes(true, i + 1));
  });
}

/** Those behind one that ends the script for all mail are never done. */
function reached(said: readonly Said[]): readonly Said[] {
  const end = said.findIndex(({ condition, stops }) => stops && condition.name === "true");
  const never = { commands: [], stops: false, near: [], left: "A rule before it stops all mail.", asksPlace: false };
  return said.map((one, i) => (end >= 0 && i > end && one.left === null ? { ...one, ...never } : one));
}

/** Puts a message where it was noted to go. */
const noted = (): Command => when(not(placeIs("")), [command("fileinto", [texts(`\${${PLACE}}`)])]);

const commentOf = ({ macro, list, remark }: OutRule, place: number, { left, near }: Said): string[] => [
  `${place}: ${macro?.name ?? "no macro"}`,
  ...(list ? [`${FOR_LIST}${list.name}`] : []),
  ...(left === null ? [] : [`left out: ${left}`]),
  ...near.map((text) => `nearly: ${text}`),
  ...(remark === null ? [] : remark.split("\n").map((line) => `${REMARK}${line}`)),
];

/**
 * Rules as a Sieve script: those that are on, for mail as it comes in, each in its order. Where the last of several
 * places counts, as it does here, it is noted in a variable and mail is filed at the end; else it is filed at once.
 */
export function handOut(rules: readonly OutRule[], context: NarrowContext, macros: readonly NamedMacro[]): HandedOut {
  const sayAll = (filing: Filing) => reached(rules.map((rule) => say(rule, context, macros, filing)));
  const atOnce = sayAll("at-once");
  const plain = isPlain(atOnce);
  const said = plain ? atOnce : sayAll("noted");
  const out: Command[] = [];
  let comments: string[] = [];
  for (const [i, one] of said.entries()) {
    comments.push(...commentOf(rules[i]!, i + 1, one));
    const ending = one.stops ? [...(plain ? [] : [noted()]), command("stop")] : [];
    const commands = [...one.commands, ...ending];
    const [first, ...more] =
      one.condition.name === "true" || commands.length === 0 ? commands : [when(one.condition, commands)];
    if (!first) continue;
    out.push({ ...first, comments }, ...more);
    comments = [];
  }
  if (!plain && out.at(-1)?.name !== "stop") out.push(noted());
  const needed = extensionsOf(block(out));
  const all = needed.length === 0 ? out : [command("require", [texts(...needed)]), ...out];
  return {
    script: printScript({ commands: all, comments }),
    notes: said.flatMap(({ left, near }, i) =>
      left === null && near.length === 0 ? [] : [{ rule: i + 1, left, near }],
    ),
  };
}
