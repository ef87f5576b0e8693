import type { NamedMacro, PlanContext } from "./context";
import { insertAt, listAt, moveWithin, removeAt, replaceAt, spotOf } from "./paths";
import { checkSteps, type Plannable } from "./plan";
import { textOfProblem, type Problem } from "./problem";
import { abilitiesOf, deletesAlways } from "./reach";
import type { Settings } from "./settings";
import { goesOf, isLetter, walkSteps, type IfStep, type Step } from "./step";
import type { Asked } from "./value";

/** What a person can do about a finding with one key. */
export type Repair =
  | { readonly text: string; readonly steps: readonly Step[] }
  | { readonly text: string; readonly settings: Settings }
  | { readonly text: string; readonly make: "folder" | "label"; readonly name: string };

export type Hint =
  | "unreachable"
  | "after-delete"
  | "moved-twice"
  | "overwritten"
  | "flag-lost"
  | "deferral-lost"
  | "moved-in-branch"
  | "flag-goes"
  | "task-copy"
  | "question-unattended"
  | "confirm-unattended"
  | "needs-writer"
  | "asked-twice"
  | "sent-twice"
  | "awaits-nothing"
  | "empty-branches";

/** Something about a macro as it stands: what keeps it from running, or what it probably was not meant to do. */
export interface Finding {
  readonly severity: "stops" | "warns" | "tells";
  readonly code: Problem["code"] | Hint;
  /** The step; "0" for the macro as a whole. */
  readonly path: string;
  readonly text: string;
  readonly repairs: readonly Repair[];
}

const hintText = {
  unreachable: (path) => `Step ${path} is never reached: what comes before it ends the macro.`,
  "after-delete": (path) => `Step ${path} comes after the message is deleted for good, so it does nothing.`,
  "moved-twice": (path, other) => `Step ${path} moves the message again: the move in step ${other} comes to nothing.`,
  overwritten: (path, other) => `Step ${path} undoes or replaces what step ${other} does.`,
  "flag-lost": (path, other) =>
    `Step ${path} takes the message out of sight, and what step ${other} sets goes with it.`,
  "deferral-lost": (path, other) =>
    `Step ${path} decides where the message stays, so it does not come back as step ${other} says.`,
  "moved-in-branch": (path, other) =>
    `Step ${path} moves the message again where a branch of step ${other} has moved it.`,
  "flag-goes": (path) => `A message that step ${path} deletes may have a flag or an open task: they go with it unseen.`,
  "task-copy": (path, other) =>
    `Step ${path} takes away the message of the task that step ${other} makes; the task keeps a copy of its sender and subject.`,
  "question-unattended": (path) => `Step ${path} asks, and the macro may run with nobody there to answer.`,
  "confirm-unattended": (path) => `Step ${path} cannot be undone, and the macro may run with nobody there to agree.`,
  "needs-writer": (path) => `Step ${path} opens a draft, and the macro may run with nobody there to write.`,
  "asked-twice": (path, other) => `Step ${path} has the same name as the question in step ${other}.`,
  "sent-twice": (path, other) => `Step ${path} sends a letter although step ${other} has sent one.`,
  "awaits-nothing": (path) =>
    `Step ${path} awaits an answer, and nothing is sent before it: right where the message was answered before.`,
  "empty-branches": (path) => `Step ${path} does nothing either way: both of its branches are empty.`,
} satisfies Record<Hint, (path: string, other: string) => string>;

const TELLS: readonly Hint[] = ["task-copy", "flag-goes", "awaits-nothing"];

/** What a step writes, where a later write makes the earlier one pointless; null where that cannot be. */
export function writesTo(step: Step): string | null {
  switch (step.do) {
    case "move":
    case "archive":
    case "trash":
    case "junk":
    case "aside":
      return "folder";
    case "read":
    case "unread":
      return "read";
    case "flag":
    case "unflag":
      return "flag";
    case "pin":
    case "unpin":
      return "pin";
    case "owe":
    case "owe no more":
      return "owed";
    case "note":
      return step.do;
    case "defer":
    case "end deferral":
      return "defer";
    case "marker":
      return step.next ? null : "marker";
    case "label": {
      const name = step.add ?? step.remove;
      return typeof name === "string" ? `label ${name.toLowerCase()}` : null;
    }
    default:
      return null;
  }
}

const LOST_WITH: readonly Step["do"][] = ["trash", "junk", "delete for good"];
/** What nobody sees any more on a message that is out of sight. Its deferral ends wherever it is put. */
const LOST: readonly Step["do"][] = ["flag", "pin", "label", "marker", "owe", "note"];
/** What puts the message somewhere, and by that ends its deferral. */
const PLACES: readonly Step["do"][] = ["move", "archive", "trash", "junk", "aside", "delete for good"];

const moves = (step: Step): boolean => writesTo(step) === "folder";

/** Whether nothing after the step is reached. */
const ends = (step: Step): boolean => {
  if (step.do === "stop" || step.do === "delete for good") return true;
  if (step.do !== "if") return false;
  return step.then.some(ends) && (step.else ?? []).some(ends);
};

/** What takes something off is not lost with a message out of sight. */
const takesOff = (step: Step): boolean =>
  (step.do === "label" && step.remove !== undefined) || (step.do === "marker" && step.clear === true);

/** Branches of a condition that move the message and go on to what comes after. */
const movedBranches = (step: IfStep): ("then" | "else")[] =>
  (["then", "else"] as const).filter((branch) => {
    const steps = step[branch] ?? [];
    return steps.some(moves) && !steps.some(ends);
  });

class Reader {
  readonly findings: Finding[] = [];

  constructor(
    private readonly macro: Plannable,
    private readonly macros: readonly NamedMacro[] | undefined,
  ) {}

  add(code: Hint, path: string, other: string, ...repairs: Repair[]): void {
    const severity = TELLS.includes(code) ? "tells" : "warns";
    this.findings.push({ severity, code, path, text: hintText[code](path, other), repairs });
  }

  takeOut(path: string): Repair {
    return { text: `Take step ${path} out`, steps: removeAt(this.macro.steps, path) };
  }

  /** A list of steps from first to last, and the branches in it. */
  list(steps: readonly Step[], under: string, before: readonly { step: Step; path: string }[]): void {
    const written = new Map<string, string>();
    let moved: { path: string; step: IfStep } | null = null;
    const seen = [...before];
    let ended: Step | null = null;
    steps.forEach((step, i) => {
      const path = `${under}${i + 1}`;
      if (ended) {
        const code = deletesAlways([ended], this.macros) ? "after-delete" : "unreachable";
        return this.add(code, path, "", this.takeOut(path));
      }
      if (moved && moves(step)) this.movedAgain(step, path, moved);
      if (moves(step) || ["only when", "run macro", "not junk"].includes(step.do)) moved = null;
      if (step.do === "if") moved = movedBranches(step).length > 0 ? { path, step } : null;
      this.writes(step, path, written);
      this.letters(step, path, seen);
      this.losses(step, path, seen);
      if (step.do === "if") {
        if (step.then.length + (step.else?.length ?? 0) === 0) this.add("empty-branches", path, "", this.takeOut(path));
        this.list(step.then, `${path}.`, seen);
        this.list(step.else ?? [], `${path}.else.`, seen);
      }
      seen.push({ step, path });
      if (ends(step) || deletesAlways([step], this.macros)) ended = step;
    });
  }

  private writes(step: Step, path: string, written: Map<string, string>): void {
    // A condition, a copy or a toggle looks at what was written so far; another macro may.
    if (["only when", "if", "copy", "run macro"].includes(step.do)) written.clear();
    if (step.do === "toggle read") written.delete("read");
    if (step.do === "not junk") written.delete("folder");
    const cell = writesTo(step);
    if (cell === null) return;
    const earlier = written.get(cell);
    if (earlier !== undefined) {
      const code = cell === "folder" ? "moved-twice" : "overwritten";
      this.add(code, path, earlier, this.takeOut(earlier), this.takeOut(path));
    }
    written.set(cell, path);
  }

  private letters(step: Step, path: string, seen: readonly { step: Step; path: string }[]): void {
    if (isLetter(step) && goesOf(step) === "outbox") {
      const sent = seen.find(({ step: earlier }) => isLetter(earlier) && goesOf(earlier) === "outbox");
      if (sent) this.add("sent-twice", path, sent.path, this.takeOut(path), this.takeOut(sent.path));
    }
    const maySend = ({ step: earlier }: { step: Step }) =>
      isLetter(earlier) || earlier.do === "run macro" || earlier.do === "if";
    if (step.do === "await an answer" && !seen.some(maySend)) this.add("awaits-nothing", path, "", this.takeOut(path));
  }

  private losses(step: Step, path: string, seen: readonly { step: Step; path: string }[]): void {
    if (PLACES.includes(step.do))
      for (const earlier of seen)
        if (earlier.step.do === "defer" && !this.endsBetween(earlier.path, path, seen))
          this.add("deferral-lost", path, earlier.path, ...this.later(earlier.path, path), this.takeOut(earlier.path));
    if (!LOST_WITH.includes(step.do)) return;
    const instead: Repair[] =
      step.do === "junk"
        ? []
        : [{ text: "Archive instead", steps: replaceAt(this.macro.steps, path, { do: "archive" }) }];
    let isUnflagged = false;
    for (const earlier of seen) {
      if (earlier.step.do === "unflag") isUnflagged = true;
      if (LOST.includes(earlier.step.do) && !takesOff(earlier.step))
        this.add("flag-lost", path, earlier.path, this.takeOut(earlier.path), ...instead);
      if (earlier.step.do === "make task")
        this.add("task-copy", path, earlier.path, this.takeOut(earlier.path), ...instead);
    }
    if (step.do === "delete for good" && !isUnflagged && !seen.some(({ step: one }) => one.do === "only when"))
      this.add("flag-goes", path, "", {
        text: "Only where nothing is flagged",
        steps: insertAt(this.macro.steps, spotOf(path), { do: "only when", narrow: "!flagged" }),
      });
  }

  /** Whether the deferral is over by then anyhow, so that it was said before. */
  private endsBetween(from: string, to: string, seen: readonly { step: Step; path: string }[]): boolean {
    const after = seen.slice(seen.findIndex(({ path }) => path === from) + 1).filter(({ path }) => path !== to);
    return after.some(({ step }) => PLACES.includes(step.do) || step.do === "end deferral" || step.do === "defer");
  }

  /** The earlier step put after the later one, where both stand in one list. */
  private later(from: string, to: string): Repair[] {
    const [a, b] = [spotOf(from), spotOf(to)];
    const after = listAt(this.macro.steps, b.under).slice(b.index + 1);
    if (a.under !== b.under || after.some((step) => PLACES.includes(step.do))) return [];
    return [{ text: `Put step ${from} after step ${to}`, steps: moveWithin(this.macro.steps, from, b.index) }];
  }

  private movedAgain(step: Step, path: string, { path: other, step: condition }: { path: string; step: IfStep }): void {
    const branches = movedBranches(condition);
    const repairs = [this.takeOut(path)];
    const free = branches.includes("then") ? "else" : "then";
    if (branches.length === 1 && !(condition[free] ?? []).some(ends)) {
      const joined = replaceAt(this.macro.steps, other, {
        ...condition,
        [free]: [...(condition[free] ?? []), step],
      });
      repairs.push({ text: `Only where step ${other} does not move it`, steps: removeAt(joined, path) });
    }
    this.add("moved-in-branch", path, other, ...repairs);
  }

  unattended(settings: Settings): void {
    const { unattended: _, ...watched } = settings;
    const attend: Repair = { text: "Run it only with somebody there", settings: watched };
    for (const { step, path } of walkSteps(this.macro.steps)) {
      // Its branches are walked by themselves; what the macro it runs may do is said of the step that runs it.
      const can = abilitiesOf({ steps: [step.do === "if" ? { ...step, then: [], else: [] } : step] }, this.macros);
      if (can.asks) this.add("question-unattended", path, "", attend);
      if (can.confirms) this.add("confirm-unattended", path, "", attend);
      if (can.writes) this.add("needs-writer", path, "", attend);
    }
  }

  names(): void {
    const names = new Map<string, string>();
    for (const { step, path } of walkSteps(this.macro.steps)) {
      if (step.do !== "ask") continue;
      const earlier = names.get(step.name);
      if (earlier !== undefined) this.add("asked-twice", path, earlier, this.takeOut(path));
      else names.set(step.name, path);
    }
  }
}

const KINDS: Partial<Record<Problem["code"], Asked["ask"]>> = {
  "no-folder": "folder",
  "no-label": "label",
  "no-marker": "marker",
  "bad-time": "date",
};

/** The step with a fixed value that cannot be used replaced by a question. */
function askInstead(step: Step, kind: Asked["ask"], name: string): Step {
  const changed = Object.entries(step).map(([key, value]) => [
    key,
    key !== "do" && value === name ? { ask: kind } : value,
  ]);
  return Object.fromEntries(changed) as Step;
}

function repairsOf(problem: Problem, steps: readonly Step[]): Repair[] {
  const { path } = problem;
  const all = [...walkSteps(steps)];
  const at = all.find((found) => found.path === path)?.step;
  if (!at) return [];
  const repairs: Repair[] = [];
  const kind = KINDS[problem.code];
  const name = "name" in problem ? problem.name : "text" in problem ? problem.text : "";
  if (problem.code === "no-folder" || problem.code === "no-label") {
    const make = problem.code === "no-folder" ? "folder" : "label";
    repairs.push({ text: `Make the ${make} ${name}`, make, name });
  }
  if (kind && at.do !== "ask")
    repairs.push({ text: "Ask each time", steps: replaceAt(steps, path, askInstead(at, kind, name)) });
  repairs.push({ text: `Take step ${path} out`, steps: removeAt(steps, path) });
  return repairs;
}

/**
 * Everything there is to say about a macro as it stands. A macro without findings that stop it never plans
 * anything impossible.
 */
export function checkMacro(macro: Plannable, context: PlanContext): Finding[] {
  const { problems } = checkSteps(macro, context);
  const stops = problems.map((problem): Finding => ({
    severity: "stops",
    code: problem.code,
    path: problem.path,
    text: textOfProblem(problem),
    repairs: repairsOf(problem, macro.steps),
  }));
  const reader = new Reader(macro, context.macros);
  reader.list(macro.steps, "", []);
  reader.names();
  if (macro.settings?.unattended) reader.unattended(macro.settings);
  return [...stops, ...reader.findings];
}
