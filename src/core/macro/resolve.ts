import type { Flag, MessageState } from "../change";
import { withLabel } from "../change";
import type { FolderId, LabelId, MarkerId } from "../id";
import { folderFor, folderNamed, labelNamed, markerNamed, type Directory, type Role } from "../place";
import { readWhen } from "../when";
import { isAsked, type Asked, type Step, type StepKind, type Value } from "./step";

export interface PlanContext {
  readonly directory: Directory;
  readonly now: Date;
  /** IANA name, for times such as "tomorrow 9". */
  readonly zone: string;
}

/** What was answered, by question id ("2.to": the second step's folder). */
export type Answers = Readonly<Record<string, string>>;

export interface Question {
  readonly id: string;
  /** Counted from one, as people see steps. */
  readonly step: number;
  readonly kind: Asked["ask"];
  readonly prompt: string;
}

/** Why a macro cannot run as it stands, as facts; the wording is in problemText. */
export type Problem =
  | { readonly code: "no-folder"; readonly step: number; readonly name: string }
  | { readonly code: "no-label"; readonly step: number; readonly name: string }
  | { readonly code: "no-marker"; readonly step: number; readonly name: string }
  | { readonly code: "no-markers"; readonly step: number }
  | { readonly code: "no-steps"; readonly step: number }
  | { readonly code: "no-role"; readonly step: number; readonly role: Role }
  | { readonly code: "bad-time"; readonly step: number; readonly text: string; readonly why: string };

export const problemText = {
  "no-folder": (p) => `Step ${p.step}: there is no folder "${p.name}". Choose another, or make it.`,
  "no-label": (p) => `Step ${p.step}: there is no label "${p.name}". Choose another, or make it.`,
  "no-marker": (p) => `Step ${p.step}: there is no marker "${p.name}". Choose another.`,
  "no-markers": (p) => `Step ${p.step}: no markers are set up.`,
  "no-steps": () => "The macro has no steps yet. Add one.",
  "no-role": (p) => `Step ${p.step}: no folder serves as ${p.role}.`,
  "bad-time": (p) => `Step ${p.step}: ${p.why}.`,
} satisfies { [C in Problem["code"]]: (problem: Extract<Problem, { code: C }>) => string };

export const textOfProblem = (problem: Problem): string =>
  (problemText[problem.code] as (p: Problem) => string)(problem);

export type Draft = { -readonly [K in keyof MessageState]: MessageState[K] };

/** What one step does to one message. A copy is only noted: the server makes it and gives it an id. */
export interface Effect {
  (draft: Draft, copyTo: (folder: FolderId) => unknown): "go-on" | "stop";
}

const PROMPTS: Record<Asked["ask"], string> = {
  folder: "To which folder?",
  label: "Which label?",
  date: "When?",
  text: "What text?",
};

/** Turns steps, names and answers into effects; gathers what is missing instead of stopping at the first. */
export class Resolver {
  readonly problems: Problem[] = [];
  readonly questions: Question[] = [];
  private step = 0;

  constructor(
    private readonly context: PlanContext,
    private readonly answers: Answers,
  ) {}

  effect(step: Step, index: number): Effect {
    this.step = index + 1;
    return (RESOLVE[step.do] as (resolver: Resolver, step: Step) => Effect)(this, step);
  }

  private value(value: Value, param: string): string | null {
    if (!isAsked(value)) return value;
    const id = `${this.step}.${param}`;
    const answer = this.answers[id];
    if (answer !== undefined) return answer;
    this.questions.push({ id, step: this.step, kind: value.ask, prompt: value.prompt ?? PROMPTS[value.ask] });
    return null;
  }

  text = (value: Value, param: string): string | null => this.value(value, param);

  folder(value: Value): FolderId | null {
    const name = this.value(value, "to");
    if (name === null) return null;
    const found = folderNamed(this.context.directory, name);
    if (!found) this.problems.push({ code: "no-folder", step: this.step, name });
    return found?.id ?? null;
  }

  role(role: Role): FolderId | null {
    const found = folderFor(this.context.directory, role);
    if (!found) this.problems.push({ code: "no-role", step: this.step, role });
    return found?.id ?? null;
  }

  label(value: Value, param: string): LabelId | null {
    const name = this.value(value, param);
    if (name === null) return null;
    const found = labelNamed(this.context.directory, name);
    if (!found) this.problems.push({ code: "no-label", step: this.step, name });
    return found?.id ?? null;
  }

  marker(letter: string): MarkerId | null {
    const found = markerNamed(this.context.directory, letter);
    if (!found) this.problems.push({ code: "no-marker", step: this.step, name: letter });
    return found?.id ?? null;
  }

  /** No marker, then each in its order, then none again. */
  nextMarker(): (marker: MarkerId | null) => MarkerId | null {
    const ids = this.context.directory.markers.map((marker) => marker.id);
    if (ids.length === 0) this.problems.push({ code: "no-markers", step: this.step });
    return (marker) => ids[marker === null ? 0 : ids.indexOf(marker) + 1] ?? null;
  }

  time(value: Value | undefined, param: string): string | null {
    if (value === undefined) return null;
    const text = this.value(value, param);
    if (text === null) return null;
    const when = readWhen(text, this.context.now, this.context.zone);
    if (when.ok) return when.at.toISOString();
    this.problems.push({ code: "bad-time", step: this.step, text, why: when.problem });
    return null;
  }
}

const write =
  (edit: (draft: Draft) => void): Effect =>
  (draft) => {
    edit(draft);
    return "go-on";
  };

const put = <K extends keyof MessageState>(key: K, value: MessageState[K] | null): Effect =>
  write((draft) => {
    if (value !== null) draft[key] = value;
  });

const setLabel = (label: LabelId | null, on: (draft: Draft, label: LabelId) => boolean): Effect =>
  write((draft) => {
    if (label !== null) draft.labels = withLabel(draft.labels, label, on(draft, label));
  });

type Resolve = { [K in StepKind]: (r: Resolver, step: Extract<Step, { do: K }>) => Effect };

/** What each kind of step does. */
const RESOLVE: Resolve = {
  move: (r, step) => put("folder", r.folder(step.to)),
  copy: (r, step) => {
    const to = r.folder(step.to);
    return (_draft, copyTo) => {
      if (to !== null) copyTo(to);
      return "go-on";
    };
  },
  archive: (r) => put("folder", r.role("archive")),
  trash: (r) => put("folder", r.role("trash")),
  junk: (r) => put("folder", r.role("junk")),
  "not junk": (r) => {
    const junk = r.role("junk");
    const inbox = r.role("inbox");
    return write((draft) => {
      if (inbox !== null && draft.folder === junk) draft.folder = inbox;
    });
  },
  read: () => put("read", true),
  unread: () => write((draft) => void (draft.read = false)),
  "toggle read": () => write((draft) => void (draft.read = !draft.read)),
  flag: (r, step) => {
    const flag: Flag = {
      start: r.time(step.start, "start"),
      due: r.time(step.due, "due"),
      note: step.note === undefined ? null : r.text(step.note, "note"),
    };
    return put("flag", flag);
  },
  unflag: () => write((draft) => void (draft.flag = null)),
  pin: () => put("pin", true),
  unpin: () => write((draft) => void (draft.pin = false)),
  label: (r, step) => {
    if (step.add !== undefined) return setLabel(r.label(step.add, "add"), () => true);
    if (step.remove !== undefined) return setLabel(r.label(step.remove, "remove"), () => false);
    return setLabel(r.label(step.toggle ?? "", "toggle"), (draft, label) => !draft.labels.includes(label));
  },
  marker: (r, step) => {
    if (step.set !== undefined) return put("marker", r.marker(step.set));
    if (step.clear) return write((draft) => void (draft.marker = null));
    const next = r.nextMarker();
    return write((draft) => void (draft.marker = next(draft.marker)));
  },
  note: (r, step) => put("note", r.text(step.text, "text")),
  stop: () => () => "stop",
};
