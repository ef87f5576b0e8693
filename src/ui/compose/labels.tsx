"use client";
import { useState } from "react";
import { inLine } from "../state/writes";
import { write } from "../state/api";
import { notify, useView } from "../state/store";
import { TONE } from "../parts/tone";

interface Props {
  readonly draft: number;
  /** Names of those it has when it is opened. */
  readonly labels: readonly string[];
}

/** Labels of a letter that is being written: they are on the message, and stay there when it is sent. */
export function Labels({ draft, labels }: Props) {
  const all = useView((v) => v.directory.labels);
  const [on, setOn] = useState(labels);
  const put = (name: string, change: "add" | "remove") => {
    const before = on;
    setOn(change === "add" ? [...on, name] : on.filter((one) => one !== name));
    const macro = {
      name: change === "add" ? `Label ${name}` : `Take off ${name}`,
      steps: [{ do: "label", [change]: name }],
    };
    const run = { id: crypto.randomUUID(), macro, target: { ids: [draft] } };
    inLine(() => write("POST", "/runs", run)).catch((error: Error) => {
      setOn(before);
      notify(error.message, "trouble");
    });
  };
  if (all.length === 0) return null;
  return (
    <span className="flex flex-wrap items-center gap-1.5 text-[13px]">
      {all
        .filter(({ name }) => on.includes(name))
        .map(({ id, name, colour }) => (
          <span key={id} className={`inline-flex rounded-sm pl-1.5 ${TONE[colour]}`}>
            {name}
            <button
              type="button"
              aria-label={`Take off the label ${name}`}
              onClick={() => put(name, "remove")}
              className="px-1.5"
            >
              ×
            </button>
          </span>
        ))}
      <select
        aria-label="Put a label on it"
        value=""
        onChange={({ target }) => target.value !== "" && put(target.value, "add")}
        className="rounded-sm border border-edge bg-sheet px-2 py-1"
      >
        <option value="">label…</option>
        {all
          .filter(({ name }) => !on.includes(name))
          .map(({ id, name }) => (
            <option key={id} value={name}>
              {name}
            </option>
          ))}
      </select>
    </span>
  );
}
