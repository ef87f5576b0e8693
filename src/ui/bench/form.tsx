"use client";
import { useState, type ReactNode } from "react";
import { formOf, STATES, textOfIssue, writeForm, type NarrowForm, type State } from "@/core/narrow";
import { Modal } from "../parts/picker";
import { checkNarrow, expressionOf, narrowBy, narrowTo } from "../state/browse";
import { set, useView } from "../state/store";

const close = () => set({ dialog: null });
const FIELD = "w-full rounded-sm border border-edge bg-paper px-2 py-1";

type TextName = Exclude<keyof NarrowForm, "states" | "rest">;
const TEXTS: readonly (readonly [TextName, string, string])[] = [
  ["from", "From", "part of a name or address"],
  ["to", "To", "also copied to"],
  ["subject", "Subject", "words in it"],
  ["words", "Words", 'anywhere; "in quotes" in a row'],
  ["file", "Attachment", "part of its name"],
  ["older", "Older than", "7d, 2w, 6mo"],
  ["newer", "Newer than", "1d"],
  ["larger", "Larger than", "100k, 1M"],
  ["since", "From day", "2026-11-01, today"],
  ["until", "To day", "2026-11-30"],
];

function Line({ name, children }: { readonly name: string; readonly children: ReactNode }) {
  return (
    <label className="grid grid-cols-[96px_1fr] items-center gap-2">
      <span className="text-ink-2">{name}</span>
      {children}
    </label>
  );
}

/** The same conditions as in the narrow line, as a form. What it has no field for stays as it was written. */
export function Form() {
  const conditions = useView((v) => v.conditions);
  const directory = useView((v) => v.directory);
  const [form, setForm] = useState<NarrowForm>(() => formOf(expressionOf("", conditions)));
  const [problem, setProblem] = useState<string | null>(null);
  const source = writeForm(form);
  const checked = checkNarrow(source);
  const put = (change: Partial<NarrowForm>) => {
    setForm({ ...form, ...change });
    setProblem(null);
  };
  const apply = () => {
    if (!checked.ok) return setProblem(checked.issues.map(textOfIssue).join(" "));
    close();
    // Everything is said by the form: the conditions there were are in it.
    narrowTo([]);
    narrowBy(source);
  };
  const choice = (
    name: "folder" | "label" | "marker",
    title: string,
    values: readonly (readonly [string, string])[],
  ) => (
    <Line name={title}>
      <select value={form[name]} onChange={(event) => put({ [name]: event.target.value })} className={FIELD}>
        <option value="">any</option>
        {values.map(([value, text]) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>
    </Line>
  );
  const toggle = (state: State) =>
    put({ states: form.states.includes(state) ? form.states.filter((one) => one !== state) : [...form.states, state] });
  return (
    <Modal title="Narrow by a form" onClose={close} wide>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          apply();
        }}
        className="max-h-[68vh] overflow-y-auto p-4 text-[13px]"
      >
        <div className="grid gap-x-6 gap-y-2 sm:grid-cols-2">
          {TEXTS.map(([name, title, hint], i) => (
            <Line key={name} name={title}>
              <input
                autoFocus={i === 0}
                value={form[name]}
                placeholder={hint}
                onChange={(event) => put({ [name]: event.target.value })}
                className={FIELD}
              />
            </Line>
          ))}
          {choice(
            "folder",
            "Folder",
            directory.folders.map((f) => [f.path, f.path]),
          )}
          {choice(
            "label",
            "Label",
            directory.labels.map((l) => [l.name, l.name]),
          )}
          {choice(
            "marker",
            "Marker",
            directory.markers.map((m) => [m.letter, `${m.letter}, ${m.meaning}`]),
          )}
        </div>
        <fieldset className="mt-3 flex flex-wrap gap-x-4 gap-y-1">
          <legend className="text-ink-2">Only</legend>
          {STATES.map((state) => (
            <label key={state} className="flex items-center gap-1.5">
              <input type="checkbox" checked={form.states.includes(state)} onChange={() => toggle(state)} />
              {state}
            </label>
          ))}
        </fieldset>
        {form.rest.length > 0 && (
          <p className="mt-3 text-ink-2">
            Kept as written: <code>{form.rest.join(" & ")}</code>
          </p>
        )}
        <p className="mt-3 rounded-sm bg-well px-2 py-1.5 font-mono text-xs break-words" aria-live="polite">
          {source || "everything here"}
        </p>
        <p role="alert" className="mt-1 min-h-5 text-brick">
          {problem ?? (checked.ok ? "" : checked.issues.map(textOfIssue).join(" "))}
        </p>
        <div className="mt-2 flex gap-2">
          <button type="submit" className="rounded-sm bg-ink px-3 py-1.5 text-paper">
            Narrow
          </button>
          <button type="button" onClick={close} className="rounded-sm border border-rule px-3 py-1.5">
            Leave it as it is
          </button>
        </div>
      </form>
    </Modal>
  );
}
