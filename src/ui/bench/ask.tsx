"use client";
import { useState } from "react";
import type { MacroShape } from "@/core/api";
import type { Question } from "@/core/macro";
import { readWhen } from "@/core/when";
import { countText, dateText } from "../parts/words";
import { Modal, Picker } from "../parts/picker";
import { write } from "../state/api";
import { runMacro } from "../state/decide";
import { refreshSettings } from "../state/load";
import { set, useView } from "../state/store";

interface Props {
  readonly macro: MacroShape;
  readonly ids: readonly number[];
  readonly questions: readonly Question[];
}

const close = () => set({ dialog: null });

/** Asks what a macro needs to know, one question after another, then runs it. */
export function Ask({ macro, ids, questions }: Props) {
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const question = questions.find((q) => answers[q.id] === undefined);
  if (!question) return null;
  const answer = (text: string) => {
    const next = { ...answers, [question.id]: text };
    if (questions.every((q) => next[q.id] !== undefined)) runMacro(macro, { ids, answers: next });
    else setAnswers(next);
  };
  const title = `${macro.name}, ${ids.length === 1 ? "this message" : `${countText(ids.length)} messages`}: ${question.prompt}`;
  if (question.kind === "folder" || question.kind === "label")
    return <AskName key={question.id} kind={question.kind} title={title} onAnswer={answer} />;
  return <AskText key={question.id} kind={question.kind} title={title} onAnswer={answer} />;
}

function AskName({
  kind,
  title,
  onAnswer,
}: {
  kind: "folder" | "label";
  title: string;
  onAnswer: (name: string) => void;
}) {
  const directory = useView((v) => v.directory);
  const [problem, setProblem] = useState<string | null>(null);
  const names = kind === "folder" ? directory.folders.map((f) => f.path) : directory.labels.map((l) => l.name);
  const create = async (name: string) => {
    try {
      await write("POST", kind === "folder" ? "/folders" : "/labels", kind === "folder" ? { path: name } : { name });
      await refreshSettings();
      onAnswer(name);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "It could not be made.");
    }
  };
  return (
    <Picker
      title={title}
      choices={names.map((name) => ({ id: name, name }))}
      onChoose={onAnswer}
      onClose={close}
      onCreate={create}
      createText={`Make the ${kind}`}
      problem={problem}
    />
  );
}

function AskText({
  kind,
  title,
  onAnswer,
}: {
  kind: "date" | "text";
  title: string;
  onAnswer: (text: string) => void;
}) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const [text, setText] = useState(kind === "date" ? "tomorrow 9" : "");
  const when = kind === "date" ? readWhen(text, new Date(), zone) : null;
  const good = when ? when.ok : text.trim() !== "";
  return (
    <Modal title={title} onClose={close}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (good) onAnswer(text.trim());
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
