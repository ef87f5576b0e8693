import type { FolderId, LabelId, MarkerId } from "../id";
import { folderFor, folderNamed, labelNamed, markerNamed, type Role } from "../place";
import { readWhen } from "../when";
import type { PlanContext } from "./context";
import { getComputed, needsBody, readPattern, skip, UNKNOWN, type Get } from "./get";
import type { Answers, Problem, ProblemCode, Question } from "./problem";
import { isAnswered, isAsked, isCaptured, isGuessed, type Guessed, type Value } from "./value";

const PROMPTS: Record<Question["kind"], string> = {
  folder: "To which folder?",
  label: "Which label?",
  marker: "Which marker?",
  date: "When?",
  text: "What text?",
  "yes/no": "Yes or no?",
};

/** What a macro has to be given to be planned. */
export interface Needs {
  /** What messages say about themselves. */
  facts: boolean;
  /** Their words, too. */
  body: boolean;
  /** The folder guess. */
  guess: boolean;
  /** Something differs from message to message although their states are the same. */
  each: boolean;
}

/** What is said of a problem beside its code and step. */
type Details<C extends ProblemCode> = Omit<Extract<Problem, { code: C }>, "step" | "path" | "code">;

/**
 * Turns values into what gives them for a message. Names and answers that hold for the whole run are looked
 * up once; what cannot be is noted, all of it, instead of stopping at the first.
 */
export class Values {
  readonly problems: Problem[] = [];
  /** Every question there may be, whether or not a message comes to it. */
  readonly questions: Question[] = [];
  readonly needs: Needs = { facts: false, body: false, guess: false, each: false };
  /** Ask steps so far, by name. */
  readonly asked = new Map<string, { readonly kind: Question["kind"]; readonly get: Get<string> }>();
  private at = { step: 0, path: "" };

  constructor(
    readonly context: PlanContext,
    private readonly answers: Answers,
  ) {}

  /** Which step is being looked at. */
  enter(path: string): void {
    this.at = { step: Number(path.split(".")[0]), path };
  }

  problem<C extends ProblemCode>(code: C, more: Details<C>): void {
    // That the details fit the code, the parameters say; of a union the compiler cannot tell it again.
    this.problems.push({ code, ...this.at, ...more } as unknown as Problem);
  }

  /** The id of a question about a parameter of the step that is looked at. */
  readonly idOf = (param: string): string => `${this.at.path}.${param}`;

  /** A question, asked once a run or for each message. */
  question(id: string, kind: Question["kind"], prompt: string | undefined, each: boolean): Get<string> {
    const question: Question = { id, ...this.at, kind, prompt: prompt ?? PROMPTS[kind], message: null };
    this.questions.push(question);
    if (!each) {
      const answer = this.answers[id];
      return answer === undefined ? () => ({ fail: "ask", question }) : () => ({ value: answer });
    }
    this.needs.each = true;
    return ({ message }) => {
      const own = `${id}@${message}`;
      const answer = this.answers[own];
      return answer === undefined ? { fail: "ask", question: { ...question, id: own, message } } : { value: answer };
    };
  }

  /** The text of a value, for each message; null where it is fixed, with the text beside it. */
  private raw(value: Exclude<Value, { guess: "folder" }>, param: string): { fixed: string } | { get: Get<string> } {
    if (typeof value === "string") return { fixed: value };
    if (isAsked(value)) {
      const id = `${this.at.path}.${param}`;
      const answer = this.answers[id];
      const get = this.question(id, value.ask, value.prompt, value.each === true);
      return answer !== undefined && !value.each ? { fixed: answer } : { get };
    }
    if (isAnswered(value)) {
      const found = this.asked.get(value.answer);
      if (found) return { get: found.get };
      this.problem("no-answer", { name: value.answer });
      return { get: () => skip("no-value") };
    }
    this.needs.facts = true;
    this.needs.each = true;
    if (needsBody(value)) this.needs.body = true;
    if (isCaptured(value)) {
      try {
        const groups = Object.keys(readPattern(value.pattern).namedGroups());
        if (value.group !== undefined && !groups.includes(value.group))
          throw new Error(`it has no group named "${value.group}"`);
      } catch (error) {
        const why = error instanceof Error ? error.message : "unreadable";
        this.problem("bad-pattern", { text: value.pattern, why });
        return { get: () => skip("no-value") };
      }
    }
    return { get: getComputed(value) };
  }

  /** Looks a text up, at once where it is fixed, else for each message. */
  private lookUp<T>(
    value: Exclude<Value, { guess: "folder" }>,
    param: string,
    find: (text: string) => T | null,
    missing: (text: string) => void,
    reason: Parameters<typeof skip>[0],
  ): Get<T> {
    const raw = this.raw(value, param);
    if ("fixed" in raw) {
      const found = find(raw.fixed);
      if (found === null) missing(raw.fixed);
      return () => (found === null ? skip(reason) : { value: found });
    }
    const known = new Map<string, T | null>();
    return (run) => {
      const text = raw.get(run);
      if ("fail" in text) return text;
      let found = known.get(text.value);
      if (found === undefined) known.set(text.value, (found = find(text.value)));
      return found === null ? skip(reason) : { value: found };
    };
  }

  text(value: Value, param: string): Get<string> {
    if (isGuessed(value)) return () => skip("no-guess");
    const raw = this.raw(value, param);
    return "fixed" in raw ? () => ({ value: raw.fixed }) : raw.get;
  }

  folder(value: Value, param: string): Get<FolderId> {
    if (isGuessed(value)) return this.guessed(value, param);
    const find = (name: string) => folderNamed(this.context.directory, name)?.id ?? null;
    return this.lookUp(value, param, find, (name) => this.problem("no-folder", { name }), "no-folder");
  }

  private guessed({ nth, least, otherwise }: Guessed, param: string): Get<FolderId> {
    const { directory, guess, leastSure = 0 } = this.context;
    const own = new Set(directory.folders.filter(({ role }) => role === null).map(({ id }) => id));
    this.needs.guess = true;
    this.needs.each = true;
    const asked = typeof otherwise === "object" ? { ...otherwise, each: true as const } : otherwise;
    const other = asked === undefined ? null : this.folder(asked, param);
    // Who asks for the second guess has seen it.
    const from = nth === undefined ? (least ?? leastSure) : 0;
    return (run) => {
      const known = guess ? guess(run.message) : [];
      if (known === null) return UNKNOWN;
      const found = known[(nth ?? 1) - 1];
      // It was seen a while ago, or is told from outside: the folder may be no more, or none that mail is filed into.
      if (found && !own.has(found.folder)) return other ? other(run) : skip("no-folder");
      if (found && found.percent >= from) return { value: found.folder };
      return other ? other(run) : skip(found ? "doubtful" : "no-guess");
    };
  }

  role(role: Role): FolderId | null {
    const found = folderFor(this.context.directory, role);
    if (!found) this.problem("no-role", { role });
    return found?.id ?? null;
  }

  label(value: Value, param: string): Get<LabelId> {
    if (isGuessed(value)) return () => skip("no-guess");
    const find = (name: string) => labelNamed(this.context.directory, name)?.id ?? null;
    return this.lookUp(value, param, find, (name) => this.problem("no-label", { name }), "no-label");
  }

  marker(value: Value, param: string): Get<MarkerId> {
    if (isGuessed(value)) return () => skip("no-guess");
    const find = (letter: string) => markerNamed(this.context.directory, letter)?.id ?? null;
    return this.lookUp(value, param, find, (name) => this.problem("no-marker", { name }), "no-marker");
  }

  /** @returns ISO 8601; null for a parameter that is left out */
  time(value: Value | undefined, param: string): Get<string | null> {
    if (value === undefined || isGuessed(value)) return () => ({ value: null });
    const { now, zone } = this.context;
    const find = (text: string) => {
      const when = readWhen(text, now, zone);
      return when.ok ? when.at.toISOString() : null;
    };
    const missing = (text: string) => {
      const when = readWhen(text, now, zone);
      if (!when.ok) this.problem("bad-time", { text, why: when.problem });
    };
    return this.lookUp(value, param, find, missing, "bad-time");
  }

  /** When something of each message is to be, asked of the person: ISO 8601. */
  askedTime(param: string): Get<string> {
    const ask = this.question(this.idOf(param), "date", undefined, true);
    return (run) => {
      const got = ask(run);
      if ("fail" in got) return got;
      const when = readWhen(got.value, this.context.now, this.context.zone);
      return when.ok ? { value: when.at.toISOString() } : skip("bad-time");
    };
  }

  /** An answer given at an ask step, looked at as that kind; so that a bad one is said before anything runs. */
  checkAnswer(kind: Question["kind"], text: string | undefined): void {
    if (text === undefined) return;
    const { directory, now, zone } = this.context;
    if (kind === "folder" && !folderNamed(directory, text)) this.problem("no-folder", { name: text });
    if (kind === "label" && !labelNamed(directory, text)) this.problem("no-label", { name: text });
    if (kind === "marker" && !markerNamed(directory, text)) this.problem("no-marker", { name: text });
    const when = kind === "date" ? readWhen(text, now, zone) : null;
    if (when && !when.ok) this.problem("bad-time", { text, why: when.problem });
  }

  answerTo(id: string): string | undefined {
    return this.answers[id];
  }
}
