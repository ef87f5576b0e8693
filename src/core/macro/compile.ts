import { withLabel } from "../change";
import type { FolderId, LabelId } from "../id";
import { asksForTasks, asksForWords, matcher, readNarrow, textOfIssue, TRAIT } from "../narrow";
import { macroNamed } from "./context";
import { DraftRow, type Draft } from "./facts";
import { factsOf, skip, UNKNOWN, type Fail, type Get } from "./get";
import { letterOp } from "./letters";
import { both, using, withFacts, write } from "./deed";
import { domainOf, ofSource, sender } from "./people";
import type { Flow, Op, Run } from "./op";
import { blockTime, makeEvent, makeTask } from "./planned";
import type { Step, StepKind } from "./step";
import type { Value } from "./value";
import type { Values } from "./values";

/** Something else is decided about the message: it is not on its way back, nor back, any more. */
function decideAnew(draft: Draft): void {
  draft.defer = null;
  draft.back = null;
}

/** Puts the message into a folder, be it the one it is in: that is where it stays. */
function moveTo(draft: Draft, folder: FolderId): void {
  draft.folder = folder;
  decideAnew(draft);
}

const into = (folder: FolderId | null): Op => write((draft) => void (folder !== null && moveTo(draft, folder)));

/** Does ops one after another; where one ends the macro, says at which. */
export function runOps(ops: readonly Op[], run: Run): { flow: Flow; at: number } {
  for (let at = 0; at < ops.length; at++) {
    const flow = ops[at]!(run);
    if (typeof flow === "object" && "fail" in flow && flow.fail === "ask") run.ask(flow.question);
    else if (flow !== "go-on") return { flow, at };
  }
  return { flow: "go-on", at: ops.length - 1 };
}

const sub = (ops: readonly Op[]): Op => {
  return (run) => runOps(ops, run).flow;
};

/** Runs another macro: what ends it there does not end the one that runs it. */
const inner = (ops: readonly Op[]): Op => {
  return (run) => {
    const { flow } = runOps(ops, run);
    return flow === "stop" || flow === "only-when" ? "go-on" : flow;
  };
};

/** Turns steps into what they do. Names, conditions and macros are looked up once, not for each message. */
export class Compiler {
  private readonly row = new DraftRow();
  private readonly running: string[] = [];

  constructor(private readonly values: Values) {}

  /** A narrowing as a test of the message as it is by then. It may ask for words that only the server has. */
  condition(source: string): (run: Run) => boolean | Fail {
    const checked = readNarrow(source, this.values.context);
    if (!checked.ok) {
      this.values.problem("bad-condition", { text: source, why: checked.issues.map(textOfIssue).join(" ") });
      return () => false;
    }
    this.values.needs.facts = true;
    this.values.needs.each = true;
    const matches = matcher(checked.test);
    const words = asksForWords(checked.test);
    if (words) this.values.needs.body = true;
    const tasks = asksForTasks(checked.test);
    const { row } = this;
    return (run) => {
      row.draft = run.draft;
      row.facts = factsOf(run);
      const isKnown = !(words && row.facts.body === null) && !(tasks && row.facts.tasks === null);
      return isKnown ? matches(row) : UNKNOWN;
    };
  }

  private holds(step: { narrow?: string | undefined; answer?: string | undefined }): (run: Run) => boolean | Fail {
    if (step.answer === undefined) return this.condition(step.narrow ?? "");
    const asked = this.values.asked.get(step.answer);
    if (!asked || asked.kind !== "yes/no") {
      this.values.problem("no-answer", { name: step.answer });
      return () => false;
    }
    return (run) => {
      const answer = asked.get(run);
      return "fail" in answer ? answer : /^y/i.test(answer.value);
    };
  }

  steps(steps: readonly Step[], under = ""): Op[] {
    return steps.map((step, i) => this.step(step, `${under}${i + 1}`));
  }

  private step(step: Step, path: string): Op {
    this.values.enter(path);
    const make = COMPILE[step.do] as (c: Compiler, v: Values, step: Step, path: string) => Op;
    const op = make(this, this.values, step, path);
    return (run) => {
      if (run.after === null) return op(run);
      if (run.after === path) run.after = null;
      else if (run.after.startsWith(`${path}.`)) return op(run);
      return "go-on";
    };
  }

  /** The macro of that name in the place of the step, under its own "which messages". */
  call(name: string, path: string): Op {
    const { values, running } = this;
    const macro = macroNamed(values.context.macros, name);
    if (!macro) {
      values.problem("no-macro", { name });
      return () => "go-on";
    }
    if (running.includes(macro.name)) {
      values.problem("loop", { name: macro.name });
      return () => "go-on";
    }
    running.push(macro.name);
    const isFor = macro.settings.for ? this.condition(macro.settings.for) : null;
    const ops = this.steps(macro.steps, `${path}.run.`);
    running.pop();
    const all = inner(ops);
    if (!isFor) return all;
    return (run) => {
      // A run that goes on inside it had decided so.
      const yes = run.after !== null || isFor(run);
      return typeof yes === "object" ? yes : yes ? all(run) : "go-on";
    };
  }

  /** Steps of the macro with that name: running it from here would be a loop. */
  within<T>(name: string | undefined, work: () => T): T {
    if (name !== undefined) this.running.push(name);
    const result = work();
    if (name !== undefined) this.running.pop();
    return result;
  }

  either(step: Extract<Step, { do: "if" }>, path: string): Op {
    const holds = this.holds(step);
    const then = sub(this.steps(step.then, `${path}.`));
    const otherwise = sub(this.steps(step.else ?? [], `${path}.else.`));
    return (run) => {
      const yes = run.after === null ? holds(run) : !run.after.startsWith(`${path}.else.`);
      return typeof yes === "object" ? yes : yes ? then(run) : otherwise(run);
    };
  }

  onlyWhen(step: Extract<Step, { do: "only when" }>): Op {
    const holds = this.holds(step);
    return (run) => {
      const yes = holds(run);
      return typeof yes === "object" ? yes : yes ? "go-on" : "only-when";
    };
  }
}

const setLabel = (get: Get<LabelId>, on: (draft: Draft, label: LabelId) => boolean): Op =>
  using(get, (draft, label) => void (draft.labels = withLabel(draft.labels, label, on(draft, label))));

type Compile = { [K in StepKind]: (c: Compiler, v: Values, step: Extract<Step, { do: K }>, path: string) => Op };

/** What each kind of step does. */
const COMPILE: Compile = {
  move: (_, v, step) => using(v.folder(step.to, "to"), moveTo),
  copy: (_, v, step) => {
    const to = v.folder(step.to, "to");
    return (run) => {
      const folder = to(run);
      if ("fail" in folder) return folder;
      run.make({ kind: "copy", folder: folder.value, draft: { ...run.draft } });
      return "go-on";
    };
  },
  archive: (_, v) => into(v.role("archive")),
  trash: (_, v) => into(v.role("trash")),
  junk: (_, v) => into(v.role("junk")),
  "not junk": (_, v) => {
    const junk = v.role("junk");
    const inbox = v.role("inbox");
    return write((draft) => void (inbox !== null && draft.folder === junk && moveTo(draft, inbox)));
  },
  aside: (_, v) => {
    const folder = v.role("aside");
    const op = ofSource((run, of) => {
      if (folder !== null) moveTo(run.draft, folder);
      run.make({ kind: "aside", of, on: true });
    });
    return withFacts(v, op);
  },
  "not aside": (_, v) => {
    const [folder, inbox] = [v.role("aside"), v.role("inbox")];
    const op = ofSource((run, of) => {
      if (inbox !== null && run.draft.folder === folder) moveTo(run.draft, inbox);
      run.make({ kind: "aside", of, on: false });
    });
    return withFacts(v, op);
  },
  "delete for good": () => (run) => {
    run.make({ kind: "gone" });
    return "stop";
  },
  read: () => write((draft) => void (draft.read = true)),
  unread: () => write((draft) => void (draft.read = false)),
  "toggle read": () => write((draft) => void (draft.read = !draft.read)),
  flag: (_, v, step) => {
    const start = v.time(step.start, "start");
    const due = v.time(step.due, "due");
    const note: Get<string | null> = step.note === undefined ? () => ({ value: null }) : v.text(step.note, "note");
    return both([start, due, note], (run, [from, to, text]) => {
      run.draft.flag = { start: from ?? null, due: to ?? null, note: text ?? null };
      run.draft.back = null;
    });
  },
  unflag: () => write((draft) => void (draft.flag = null)),
  pin: (_, v, step) =>
    using(step.until === undefined ? () => ({ value: null }) : v.time(step.until, "until"), (draft, until) => {
      draft.pin = true;
      draft.hand = until;
    }),
  unpin: () =>
    write((draft) => {
      draft.pin = false;
      draft.hand = null;
    }),
  label: (_, v, step) => {
    if (step.add !== undefined) return setLabel(v.label(step.add, "add"), () => true);
    if (step.remove !== undefined) return setLabel(v.label(step.remove, "remove"), () => false);
    return setLabel(v.label(step.toggle as Value, "toggle"), (draft, label) => !draft.labels.includes(label));
  },
  marker: (_, v, step) => {
    if (step.set !== undefined) return using(v.marker(step.set, "set"), (draft, id) => void (draft.marker = id));
    if (step.clear) return write((draft) => void (draft.marker = null));
    // No marker, then each in its order, then none again.
    const ids = v.context.directory.markers.filter((marker) => marker.used).map((marker) => marker.id);
    if (ids.length === 0) v.problem("no-markers", {});
    return write((draft) => {
      draft.marker = ids[draft.marker === null ? 0 : ids.indexOf(draft.marker) + 1] ?? null;
    });
  },
  owe: () =>
    write((draft) => {
      draft.owed = true;
      draft.back = null;
    }),
  "owe no more": () => write((draft) => void (draft.owed = false)),
  note: (_, v, step) => using(v.text(step.text, "text"), (draft, note) => void (draft.note = note)),
  defer: (_, v, step) =>
    using(v.time(step.until, "until"), (draft, until) => {
      draft.defer = until;
      draft.back = null;
    }),
  "end deferral": (_, v) =>
    write((draft) => {
      const { defer } = draft;
      if (defer === null) return;
      draft.defer = null;
      // Back since the time it was deferred to, or since now where that has not come.
      draft.back = Date.parse(defer) < v.context.now.getTime() ? defer : v.context.now.toISOString();
    }),
  "make task": (_, v, step) => makeTask(v, step),
  "block time": (_, v, step) => blockTime(v, step),
  "make event": (_, v, step) => makeEvent(v, step),
  "block sender": (_, v, { domain }) =>
    withFacts(
      v,
      sender((address) => ({ kind: "blocked", address: domain ? domainOf(address) : address })),
    ),
  unsubscribe: (_, v) => {
    const ask = ofSource((run, of) => run.make({ kind: "leaving", of, account: factsOf(run).account }));
    return withFacts(v, (run) => {
      const { traits } = factsOf(run);
      // A person's own letters are left by telling them so.
      return (traits & (TRAIT.listmail | TRAIT.mine)) === 0 ? skip("no-way") : ask(run);
    });
  },
  "add contact": (_, v) =>
    withFacts(
      v,
      sender((address, name) => ({ kind: "contact", address, name })),
    ),
  report: (_, v, { as }) =>
    withFacts(v, (run) => {
      if ((factsOf(run).traits & TRAIT.mine) !== 0) return skip("own-mail");
      run.make({ kind: "report", as });
      return "go-on";
    }),
  "copy as text": () => (run) => {
    run.make({ kind: "text" });
    return "go-on";
  },
  "only when": (c, _, step) => c.onlyWhen(step),
  if: (c, _, step, path) => c.either(step, path),
  ask: (_, v, step) => {
    const id = `ask:${step.name}`;
    const get = v.question(id, step.kind, step.prompt, step.each === true);
    v.checkAnswer(step.kind, v.answerTo(id));
    v.asked.set(step.name, { kind: step.kind, get });
    return (run) => {
      const answer = get(run);
      return "fail" in answer ? answer : "go-on";
    };
  },
  "run macro": (c, _, step, path) => c.call(step.macro, path),
  stop: () => () => "stop",
  reply: (_, v, step, path) => letterOp(v, step, path),
  "reply all": (_, v, step, path) => letterOp(v, step, path),
  forward: (_, v, step, path) => letterOp(v, step, path),
  "new message": (_, v, step, path) => letterOp(v, step, path),
  "await an answer": (_, v, step) =>
    using(v.time(step.for, "for"), (draft, until) => {
      draft.await = until;
      draft.back = null;
    }),
  "await no more": () =>
    write((draft) => {
      draft.await = null;
      draft.back = null;
    }),
  "add sender to rule": (_, v, { rule }) =>
    withFacts(
      v,
      sender((address) => ({ kind: "listed", list: rule, address })),
    ),
};
