import type { MessageId } from "../id";
import type { Role } from "../place";
import type { ASK_KINDS } from "./step";

/** What was answered, by question id. */
export type Answers = Readonly<Record<string, string>>;

export interface Question {
  /** "2.to": the folder of step 2; "ask:arrival": the ask step of that name; with "@7" behind it for message 7. */
  readonly id: string;
  /** The step at the top level, counted from one. */
  readonly step: number;
  /** The step with the branches it is in: "3.else.1". */
  readonly path: string;
  readonly kind: (typeof ASK_KINDS)[number];
  readonly prompt: string;
  /** The message it is about; null when it is asked once for the whole run. */
  readonly message: MessageId | null;
}

interface At {
  readonly step: number;
  readonly path: string;
}

type Bare<C extends string> = { readonly code: C };
type Named<C extends string> = Bare<C> & { readonly name: string };
type Unreadable<C extends string> = Bare<C> & { readonly text: string; readonly why: string };

/** Why a macro cannot run as it stands, as facts; the wording is in problemText. */
export type Problem = At &
  (
    | Named<"no-folder">
    | Named<"no-label">
    | Named<"no-marker">
    | Named<"no-answer">
    | Named<"no-macro">
    | Named<"loop">
    | Named<"no-template">
    | Bare<"nothing-written">
    | { readonly code: "bad-address"; readonly text: string }
    | { readonly code: "bad-blank"; readonly text: string; readonly name: string }
    | Bare<"no-markers">
    | Bare<"no-steps">
    | { readonly code: "too-long"; readonly most: number }
    | { readonly code: "no-role"; readonly role: Role }
    | Unreadable<"bad-time">
    | Unreadable<"bad-condition">
    | Unreadable<"bad-pattern">
  );

export type ProblemCode = Problem["code"];

const at = (p: At): string => `Step ${p.path}`;

export const problemText = {
  "no-folder": (p) => `${at(p)}: there is no folder "${p.name}". Choose another, or make it.`,
  "no-label": (p) => `${at(p)}: there is no label "${p.name}". Choose another, or make it.`,
  "no-marker": (p) => `${at(p)}: there is no marker "${p.name}". Choose another.`,
  "no-markers": (p) => `${at(p)}: no markers are set up.`,
  "no-steps": () => "The macro has no steps yet. Add one.",
  "too-long": (p) =>
    `With the macros it runs, this comes to more than ${p.most} steps. Let it run fewer, or shorter ones.`,
  "no-role": (p) => `${at(p)}: no folder serves as ${p.role}.`,
  "bad-time": (p) => `${at(p)}: ${p.why}.`,
  "bad-condition": (p) => `${at(p)}: the condition "${p.text}" cannot be read. ${p.why}`,
  "bad-pattern": (p) => `${at(p)}: the pattern cannot be read: ${p.why}.`,
  "no-answer": (p) => `${at(p)}: no ask step called "${p.name}" comes before it. Add one, or use another value.`,
  "no-macro": (p) => `${at(p)}: there is no macro "${p.name}". It may have been renamed or deleted.`,
  "no-template": (p) => `${at(p)}: there is no template "${p.name}". Choose another, or write it.`,
  "nothing-written": (p) => `${at(p)}: this would send an empty letter. Choose a template, or let it open as a draft.`,
  "bad-address": (p) => `${at(p)}: "${p.text}" is no address a letter could go to.`,
  "bad-blank": (p) =>
    `${at(p)}: the template "${p.name}" has {${p.text}}, which is no value. Values are {first name}, {subject}, {date +3d}, {captured …}, {ask …} and what else the template screen lists.`,
  loop: (p) => `${at(p)}: running "${p.name}" here would come back to itself and never end.`,
} satisfies { [C in ProblemCode]: (problem: Extract<Problem, { code: C }>) => string };

export const textOfProblem = (problem: Problem): string =>
  (problemText[problem.code] as (p: Problem) => string)(problem);

/** Why a message was left alone. */
export type SkipCode =
  | "already-so"
  | "coming"
  | "not-for"
  | "only-when"
  | "no-value"
  | "no-folder"
  | "no-label"
  | "no-marker"
  | "bad-time"
  | "no-guess"
  | "doubtful"
  | "no-sender"
  | "own-mail"
  | "no-way"
  | "no-address";

export const skipText = {
  "already-so": "it is so already",
  coming: "its text is on the server still, and comes before the others now: try again in a moment",
  "not-for": "the macro is not for it",
  "only-when": "the condition does not hold",
  "no-value": "the message does not hold what the step takes from it",
  "no-folder": "there is no folder of the name taken from it",
  "no-label": "there is no label of the name taken from it",
  "no-marker": "there is no such marker",
  "bad-time": "what was taken from it is no time",
  "no-guess": "no folder can be guessed for it",
  doubtful: "no guess for it is sure enough",
  "no-sender": "it has no sender's address",
  "own-mail": "it is mail of your own",
  "no-way": "it says no way to leave: block its sender instead",
  "no-address": "what was taken from it is no address",
} satisfies Record<SkipCode, string>;
