"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import type { MacroShape } from "@/core/api";
import type { Answers, Question } from "@/core/macro";
import { addDays, addMonths, DAY_STARTS_AT_HOUR, readWhen, wallIn, wallText, type Wall } from "@/core/when";
import { isAddress, writeCorrespondent, type Correspondent } from "@/core/letter";
import { Recipients } from "../compose/recipients";
import { Modal, Picker } from "../parts/picker";
import { dateText, plural } from "../parts/words";
import { make } from "../places/act";
import { focusMessage } from "../state/browse";
import type { RunDecision } from "../state/decide";
import { offeredFolders } from "../state/recent";
import { runMacro } from "../state/run";
import { mailbox, set, useView } from "../state/store";
import { Month } from "./month";

interface Props {
  readonly macro: MacroShape;
  readonly ids: readonly number[];
  readonly described: RunDecision["described"];
  readonly questions: readonly Question[];
  readonly answers: Answers;
  readonly chosen: number;
}

const close = () => set({ dialog: null });

/** Which messages a question is about, in words. */
function aboutText(question: Question, count: number): string {
  const row = question.message === null ? undefined : mailbox.rowOf(question.message);
  if (row !== undefined)
    return `${mailbox.text(row, "fromName") || mailbox.text(row, "fromAddress")}, ${mailbox.text(row, "subject")}`;
  return count === 1 ? "this message" : plural(count, "message");
}

/** Asks what a macro needs to know, one question after another, then runs it. */
export function Ask({ macro, ids, described, questions, answers: earlier, chosen }: Props) {
  const [answers, setAnswers] = useState<Record<string, string>>({ ...earlier });
  const at = questions.findIndex((q) => answers[q.id] === undefined);
  const question = questions[at];
  const about = question?.message ?? null;
  useEffect(() => {
    // The reader shows the message that is asked about.
    if (about !== null) focusMessage(about);
  }, [about]);
  if (!question) return null;
  const answer = (text: string) => {
    const next = { ...answers, [question.id]: text };
    if (questions.every((q) => next[q.id] !== undefined)) runMacro(macro, { ids, described, answers: next, chosen });
    else setAnswers(next);
  };
  const of = questions.length > 1 ? ` (${at + 1} of ${questions.length})` : "";
  const title = `${macro.name}, ${aboutText(question, ids.length)}: ${question.prompt}${of}`;
  const { kind } = question;
  if (kind === "folder" || kind === "label")
    return <AskName key={question.id} kind={kind} title={title} ids={ids} onAnswer={answer} />;
  if (kind === "marker" || kind === "yes/no")
    return <AskOne key={question.id} kind={kind} title={title} onAnswer={answer} />;
  if (kind === "text" && question.id.endsWith(".to"))
    return <AskPeople key={question.id} kind={kind} title={title} onAnswer={answer} />;
  return <AskText key={question.id} kind={kind} title={title} onAnswer={answer} />;
}

interface AskProps<K> {
  readonly kind: K;
  readonly title: string;
  readonly onAnswer: (text: string) => void;
}

function AskOne({ kind, title, onAnswer }: AskProps<"marker" | "yes/no">) {
  const markers = useView((v) => v.directory.markers);
  const choices =
    kind === "marker"
      ? markers.filter((m) => m.used).map((m) => ({ id: m.letter, name: m.letter, detail: m.meaning }))
      : ["yes", "no"].map((name) => ({ id: name, name }));
  return <Picker title={title} choices={choices} onChoose={onAnswer} onClose={close} />;
}

function AskName({ kind, title, ids, onAnswer }: AskProps<"folder" | "label"> & { readonly ids: readonly number[] }) {
  const directory = useView((v) => v.directory);
  const [problem, setProblem] = useState<string | null>(null);
  const choices = useMemo(() => {
    if (kind === "label") return directory.labels.map(({ name }) => ({ id: name, name }));
    return offeredFolders(ids).map(({ folder, why }) => ({
      id: folder.path,
      name: folder.path,
      detail: why,
      first: why !== "",
    }));
  }, [kind, directory, ids]);
  const create = async (name: string) => {
    if (await make(kind, name, setProblem)) onAnswer(name);
  };
  return (
    <Picker
      title={title}
      choices={choices}
      onChoose={onAnswer}
      onClose={close}
      onCreate={create}
      createText={`Make the ${kind}`}
      problem={problem}
    />
  );
}

/** Times that are meant most often, by one press. */
const PRESETS: readonly (readonly [name: string, value: string])[] = [
  ["in 3 hours", "+3h"],
  ["this evening", "today 18:00"],
  ["tomorrow", "tomorrow 9"],
  ["saturday", "sat 9"],
  ["next week", "next mon 9"],
  ["in a month", "+1mo 9"],
];

/** What keys of the calendar do while one types. */
const MOVES: Readonly<Record<string, (wall: Wall) => Wall>> = {
  ArrowDown: (wall) => addDays(wall, 1),
  ArrowUp: (wall) => addDays(wall, -1),
  PageDown: (wall) => addMonths(wall, 1),
  PageUp: (wall) => addMonths(wall, -1),
};

function AskText({ kind, title, onAnswer }: AskProps<"date" | "text">) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const [text, setText] = useState(kind === "date" ? "tomorrow 9" : "");
  const when = kind === "date" ? readWhen(text, new Date(), zone) : null;
  const good = when ? when.ok : text.trim() !== "";
  const today = wallIn(zone, new Date());
  const wall = when?.ok ? wallIn(zone, when.at) : { ...today, hour: DAY_STARTS_AT_HOUR, minute: 0 };
  return (
    <Modal title={title} onClose={close}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (good) onAnswer(text.trim());
        }}
        onKeyDown={(event) => {
          const move = kind === "date" ? MOVES[event.key] : undefined;
          if (!move) return;
          event.preventDefault();
          setText(wallText(move(wall)));
        }}
        className="p-4"
      >
        <input
          autoFocus
          aria-label={title}
          value={text}
          onFocus={(event) => event.target.select()}
          onChange={(event) => setText(event.target.value)}
          className="w-full rounded-sm border border-edge bg-paper px-3 py-2 text-base"
        />
        {kind === "date" && (
          <div className="mt-2 flex flex-wrap gap-1.5">
            {PRESETS.map(([name, value]) => (
              <button
                key={value}
                type="button"
                onClick={() => onAnswer(value)}
                className="rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px] max-md:px-3 max-md:py-2.5"
              >
                {name}
              </button>
            ))}
          </div>
        )}
        {kind === "date" && (
          <>
            <Month chosen={wall} today={today} onChoose={(day) => setText(wallText(day))} />
            <p className="mt-1 text-[12px] text-ink-2 max-md:hidden">
              <kbd>↓</kbd> <kbd>↑</kbd> a day on or back, <kbd>PgDn</kbd> <kbd>PgUp</kbd> a month
            </p>
          </>
        )}
        <p role="status" className={`mt-2 min-h-5 text-[13px] ${when && !when.ok ? "text-brick" : "text-ink-2"}`}>
          {when
            ? when.ok
              ? dateText(when.at.toISOString(), zone, new Date())
              : when.problem
            : "Enter runs the macro, Esc leaves everything as it is."}
        </p>
      </form>
    </Modal>
  );
}

/** Whom a letter is to go to, with the addresses one writes to offered. */
function AskPeople({ title, onAnswer }: AskProps<"text">) {
  const [people, setPeople] = useState<readonly Correspondent[]>([]);
  const good = people.length > 0 && people.every(({ address }) => isAddress(address));
  const answer = () => good && onAnswer(people.map(writeCorrespondent).join(", "));
  const latest = useRef(answer);
  useEffect(() => {
    latest.current = answer;
  });
  return (
    <Modal title={title} onClose={close} overflows>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          answer();
        }}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || !event.ctrlKey) return;
          event.preventDefault();
          latest.current();
        }}
        className="p-4"
      >
        <Recipients label="to" people={people} begins onChange={setPeople} />
        <p role="status" className="mt-2 min-h-5 text-[13px] text-ink-2">
          {good
            ? "Enter runs the macro, Esc leaves everything as it is."
            : "Any part of a name or address, then Enter; Ctrl+Enter runs the macro at once."}
        </p>
        <button type="submit" disabled={!good} className="sr-only">
          Run
        </button>
      </form>
    </Modal>
  );
}
