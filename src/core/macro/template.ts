import { mapTexts, textsOf, type Doc } from "../letter";
import { readWhen } from "../when";
import type { PlanContext } from "./context";
import { messageId } from "../id";
import type { Draft, Facts } from "./facts";
import { getComputed, type Fail, type Get, type Running } from "./get";
import { LONGEST_PATTERN, TAKEN, type Computed, type Taken } from "./value";
import type { Template } from "./template-shape";
import type { Values } from "./values";

export const templateNamed = (templates: readonly Template[] | undefined, name: string): Template | undefined =>
  templates?.find((one) => one.name === name) ??
  templates?.find((one) => one.name.toLowerCase() === name.trim().toLowerCase());

/** A value in a text: where it comes from. */
export type Blank =
  | { readonly kind: "computed"; readonly value: Computed }
  | { readonly kind: "ask"; readonly prompt: string; readonly usual: string | undefined }
  | { readonly kind: "date"; readonly when: string }
  | { readonly kind: "unknown" };

const BLANK = /\{([^{}\n]{1,400})\}/g;

const isTakenName = (name: string): name is Taken => (TAKEN as readonly string[]).includes(name);

/** Where a pattern has brackets, what stands in the first of them is meant. */
function captured(pattern: string): { readonly pattern: string; readonly group?: string } {
  const named = pattern.replace(/(?<!\\)\((?!\?)/, "(?P<it>");
  return named === pattern ? { pattern } : { pattern: named, group: "it" };
}

/** What a value in braces means: `first name = friend`, `date +3d`, `captured ref (\d+)`, `ask Which hut? = Tarn Hut`. */
export function readBlank(source: string): Blank {
  const [, written = "", usual] = /^(.*?)(?:\s+=\s+(.*))?$/su.exec(source.trim()) ?? [];
  const name = written.trim();
  const otherwise = usual?.trim() ? { else: usual.trim().slice(0, 200) } : {};
  const rest = (word: string) => name.slice(word.length).trim();
  if (isTakenName(name.toLowerCase()))
    return { kind: "computed", value: { take: name.toLowerCase() as Taken, ...otherwise } };
  if (/^captured\s/i.test(name)) {
    const pattern = rest("captured");
    if (pattern.length > LONGEST_PATTERN) return { kind: "unknown" };
    return { kind: "computed", value: { ...captured(pattern), in: "text", ...otherwise } };
  }
  if (/^ask\s/i.test(name)) return { kind: "ask", prompt: rest("ask").slice(0, 80), usual: usual?.trim() };
  if (/^date\s/i.test(name)) return { kind: "date", when: rest("date") };
  if (/^today$/i.test(name)) return { kind: "date", when: "today" };
  return { kind: "unknown" };
}

/** The values a template names, each once, as they stand between the braces. */
export function blanksIn({ subject, body }: Pick<Template, "subject" | "body">): string[] {
  const found = [subject, ...textsOf(body)].flatMap((text) => [...text.matchAll(BLANK)].map((match) => match[1]!));
  return [...new Set(found)];
}

/** With each value in its place; one that is not given stays as it is written. */
export const filledIn = (text: string, values: ReadonlyMap<string, string>): string =>
  text.replace(BLANK, (whole, source: string) => values.get(source) ?? whole);

/** A day as it is written in a letter. */
export const letterDate = (at: Date, zone: string): string =>
  at
    .toLocaleDateString("en-GB", { timeZone: zone, weekday: "long", day: "numeric", month: "long", year: "numeric" })
    .replace(",", "");

function getBlank(v: Values, source: string, { now, zone }: PlanContext): Get<string> | null {
  const blank = readBlank(source);
  const param = `value.${source}`;
  switch (blank.kind) {
    case "unknown":
      return null;
    case "date": {
      const when = readWhen(blank.when, now, zone);
      if (!when.ok) v.problem("bad-time", { text: blank.when, why: when.problem });
      const text = when.ok ? letterDate(when.at, zone) : "";
      return () => ({ value: text });
    }
    case "ask": {
      const ask = v.text({ ask: "text", prompt: blank.prompt || "What is to be written there?" }, param);
      const { usual } = blank;
      return (run) => {
        const got = ask(run);
        if ("fail" in got || got.value.trim() !== "") return got;
        return usual === undefined ? got : { value: usual };
      };
    }
    case "computed": {
      const get = v.text(blank.value, param);
      // What a message does not hold is asked for, message by message: never is a blank sent.
      const ask = v.question(v.idOf(param), "text", `{${source}}, which it does not say`, true);
      return (run) => {
        const got = get(run);
        return "fail" in got && got.fail === "skip" ? ask(run) : got;
      };
    }
  }
}

/** A template filled in for each message. All that has to be asked is asked together. */
export function getFilled(
  v: Values,
  template: Template,
): (
  run: Running & { readonly ask: (fail: Extract<Fail, { fail: "ask" }>["question"]) => void },
) => { readonly value: { readonly subject: string; readonly body: Doc } } | Fail {
  const gets = blanksIn(template).map((source) => {
    const get = getBlank(v, source, v.context);
    if (!get) v.problem("bad-blank", { text: source, name: template.name });
    return [source, get] as const;
  });
  return (run) => {
    const values = new Map<string, string>();
    let failed: Fail | null = null;
    for (const [source, get] of gets) {
      const got = get?.(run);
      if (!got) continue;
      if (!("fail" in got)) values.set(source, got.value);
      else if (got.fail === "ask") run.ask(got.question);
      else failed ??= got;
    }
    if (failed) return failed;
    const fill = (text: string) => filledIn(text, values);
    return { value: { subject: fill(template.subject), body: mapTexts(template.body, fill) } };
  };
}

/**
 * A template for one message, as far as it can be filled in without asking: what nobody knows yet stays as it is
 * written, for the person to fill in.
 * @param facts null where it answers nothing
 */
export function fillNow(
  { subject, body }: Template,
  facts: Facts | null,
  { now, zone }: Pick<PlanContext, "now" | "zone">,
): { readonly subject: string; readonly body: Doc } {
  const values = new Map<string, string>();
  for (const source of blanksIn({ subject, body })) {
    const blank = readBlank(source);
    if (blank.kind === "date") {
      const when = readWhen(blank.when, now, zone);
      if (when.ok) values.set(source, letterDate(when.at, zone));
    } else if (blank.kind === "ask" && blank.usual !== undefined) values.set(source, blank.usual);
    else if (blank.kind === "computed") {
      const got = facts === null ? null : takenFrom(blank.value, facts);
      const value = got ?? blank.value.else ?? null;
      if (value !== null) values.set(source, value);
    }
  }
  const fill = (text: string) => filledIn(text, values);
  return { subject: fill(subject), body: mapTexts(body, fill) };
}

/** null where the message does not hold it, its words are not here, or the pattern cannot be read. */
function takenFrom(value: Computed, facts: Facts): string | null {
  try {
    const got = getComputed(value)({ message: messageId(1), draft: NO_DRAFT, facts });
    return "value" in got ? got.value : null;
  } catch {
    return null;
  }
}
/** Values look at nothing of the state. */
const NO_DRAFT = {} as Draft;
