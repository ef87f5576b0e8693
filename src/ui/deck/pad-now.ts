import { useEffect, useMemo, useState } from "react";
import type { MacroShape } from "@/core/api";
import { detailText, isAsked, isGuessed, type Guessed, type Step, type Value } from "@/core/macro";
import { readWhen } from "@/core/when";
import { shortTimeText } from "../parts/words";
import { guessesOf } from "../state/guesses";
import { targetsOf } from "../state/run";
import { mailbox, useView } from "../state/store";

/** What a pad says beneath its name: what matters about it now, such as where it would file and until when it defers. */

/** Times as they were read, for the minute that it is: the pads are drawn with every move of the focus. */
const times = new Map<string, string | null>();
let timesMinute = NaN;

function readTime(value: string, zone: string): string | null {
  const now = new Date();
  const minute = Math.floor(now.getTime() / 60_000);
  if (minute !== timesMinute) times.clear();
  timesMinute = minute;
  const key = `${zone} ${value}`;
  const known = times.get(key);
  if (known !== undefined) return known;
  const when = readWhen(value, now, zone);
  const text = when.ok ? shortTimeText(when.at.getTime(), zone, now.getTime()) : null;
  times.set(key, text);
  return text;
}

/** A time as it would be, if the macro ran now. */
function timeText(value: Value | undefined, zone: string): string | null {
  if (value === undefined) return null;
  if (isAsked(value)) return "asks when";
  return typeof value === "string" ? readTime(value, zone) : "as it is written there";
}

const last = (path: string): string => path.split("/").at(-1)!;

/** Where the focused message probably belongs, and how sure it must be to be filed there. */
export interface PadGuesses {
  readonly guesses: readonly { readonly path: string; readonly percent: number }[] | null;
  readonly leastSure: number;
}

function guessNow({ nth, least, otherwise }: Guessed, { guesses, leastSure }: PadGuesses): string {
  if (guesses === null) return "as guessed";
  const guess = guesses[(nth ?? 1) - 1];
  if (guess && (nth !== undefined || guess.percent >= (least ?? leastSure)))
    return `→ ${last(guess.path)} ${guess.percent} %`;
  if (isAsked(otherwise)) return "asks where";
  if (otherwise !== undefined) return `→ ${last(otherwise)}`;
  return guess ? "not sure enough" : "no guess";
}

/** What one step comes to; null where it is not what matters. */
function stepNow(step: Step, zone: string, guesses: PadGuesses): string | null {
  switch (step.do) {
    case "move":
    case "copy":
      if (isGuessed(step.to)) return guessNow(step.to, guesses);
      if (isAsked(step.to)) return "asks where";
      return typeof step.to === "string" ? `→ ${last(step.to)}` : null;
    case "defer":
      return isAsked(step.until) ? "asks until when" : `until ${timeText(step.until, zone) ?? "…"}`;
    case "flag": {
      const due = timeText(step.due, zone);
      return due === null ? null : due.startsWith("a") ? due : `due ${due}`;
    }
    case "make task": {
      const due = timeText(step.due, zone);
      return due === null ? null : due.startsWith("a") ? due : `due ${due}`;
    }
    case "block time":
      return timeText(step.at, zone);
    case "make event":
      return step.at === undefined ? "when it says" : timeText(step.at, zone);
    case "label":
      return isAsked(step.add ?? step.remove ?? step.toggle) ? "asks which" : detailText(step);
    case "marker":
      return step.set ? detailText(step) : null;
    case "run macro":
      return step.macro;
    case "delete for good":
      return "nothing brings it back";
    default:
      return null;
  }
}

/** The words for a macro with nothing that changes from message to message: what it does, without its parameters. */
const plainText = (steps: readonly Step[]): string =>
  steps.map((step) => (step.do === "if" || step.do === "only when" ? "it depends" : step.do)).join(", ");

/** What is known of the focused message once the focus rests on it. */
export interface Rested {
  /** How many messages a macro on threads would act on. */
  readonly thread?: number;
}

export const NO_GUESSES: PadGuesses = { guesses: null, leastSure: 0 };

export function nowText(macro: MacroShape, zone: string, guesses: PadGuesses, { thread }: Rested = {}): string {
  const before = macro.settings.whole ? `${thread === undefined ? "thread" : `${thread} in thread`}: ` : "";
  for (const step of macro.steps) {
    const text = stepNow(step, zone, guesses);
    if (text !== null) return before + text;
  }
  return before + (plainText(macro.steps) || "no steps yet");
}

const NOTHING: ReadonlyMap<number, Rested> = new Map();

/** A held key passes over messages: only one the focus rests on is worth a look. */
const RESTS_MS = 120;

/** What is known of the focused message, by macro; empty until the focus rests on it. */
export function useRested(): ReadonlyMap<number, Rested> {
  const focusId = useView((v) => v.focusId);
  const macros = useView((v) => v.macros);
  const [known, setKnown] = useState<{ readonly id: number | null; readonly of: ReadonlyMap<number, Rested> }>({
    id: null,
    of: new Map(),
  });
  useEffect(() => {
    if (focusId === null) return;
    const timer = setTimeout(() => {
      const of = new Map<number, Rested>();
      if (mailbox.rowOf(focusId) === undefined) return;
      for (const macro of macros) {
        const thread = macro.settings.whole ? { thread: targetsOf(macro, [focusId]).length } : {};
        of.set(macro.id, thread);
      }
      setKnown({ id: focusId, of });
    }, RESTS_MS);
    return () => clearTimeout(timer);
  }, [focusId, macros]);
  return known.id === focusId ? known.of : NOTHING;
}

/** Guesses for the focused message, in the frame it is focused in: they are here already. */
export function usePadGuesses(): PadGuesses {
  const focusId = useView((v) => v.focusId);
  const guessed = useView((v) => v.guessed);
  const folders = useView((v) => v.directory.folders);
  const leastSure = useView((v) => v.home?.settings.leastSure ?? 0);
  const many = useView((v) => v.selected > 1);
  return useMemo(() => {
    void guessed;
    const known = focusId === null || many ? null : guessesOf(focusId);
    const guesses =
      known?.map(({ folder, percent }) => ({
        path: folders.find(({ id }) => (id as number) === folder)?.path ?? "",
        percent,
      })) ?? null;
    return { guesses, leastSure };
  }, [focusId, guessed, folders, leastSure, many]);
}
