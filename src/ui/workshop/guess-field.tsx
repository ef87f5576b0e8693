"use client";
import { isAsked, type Guessed } from "@/core/macro";
import { FIELD, NameField } from "./name-field";

interface Props {
  readonly label: string;
  readonly value: Guessed;
  readonly onChange: (value: Guessed) => void;
}

const WHICH = ["the likeliest", "the second", "the third"] as const;
const percentIn = (text: string): number | undefined => {
  const percent = Number(text);
  return text.trim() === "" || !Number.isInteger(percent) ? undefined : Math.max(0, Math.min(100, percent));
};

/** Leaves out what is not said, so that a step that says no more than before is the same step. */
function guessed({ nth, least, otherwise }: Omit<Guessed, "guess">): Guessed {
  return {
    guess: "folder",
    ...(nth === undefined ? {} : { nth }),
    ...(least === undefined ? {} : { least }),
    ...(otherwise === undefined ? {} : { otherwise }),
  };
}

/** Which guess is meant, how sure it must be, and what is done where it is not. */
export function GuessField({ label, value, onChange }: Props) {
  const { nth, least, otherwise } = value;
  const source = otherwise === undefined ? "leave" : isAsked(otherwise) ? "ask" : "fixed";
  return (
    <span className="flex min-w-0 flex-col gap-1.5">
      <span className="flex flex-wrap items-center gap-1.5">
        <select
          aria-label={`${label}, which guess`}
          value={nth ?? 1}
          onChange={(event) => {
            const chosen = Number(event.target.value);
            onChange(guessed({ ...value, nth: chosen === 1 ? undefined : chosen }));
          }}
          className={FIELD}
        >
          {WHICH.map((name, i) => (
            <option key={name} value={i + 1}>
              {name}
            </option>
          ))}
        </select>
        {nth === undefined && (
          <label className="flex items-center gap-1.5 text-xs text-ink-2">
            if at least
            <input
              type="number"
              min={0}
              max={100}
              aria-label={`${label}, percent it must be sure`}
              placeholder="as set"
              value={least ?? ""}
              onChange={(event) => onChange(guessed({ ...value, least: percentIn(event.target.value) }))}
              className={`${FIELD} w-[8ch]`}
            />
            % sure
          </label>
        )}
      </span>
      <span className="flex flex-wrap items-center gap-1.5 text-xs text-ink-2">
        otherwise
        <select
          aria-label={`${label}, otherwise`}
          value={source}
          onChange={(event) => {
            const { value: chosen } = event.target;
            const next = { leave: undefined, ask: { ask: "folder" } as const, fixed: "Archive" }[chosen];
            onChange(guessed({ ...value, otherwise: next }));
          }}
          className={FIELD}
        >
          <option value="leave">leave it alone</option>
          <option value="ask">ask</option>
          <option value="fixed">always to…</option>
        </select>
      </span>
      {typeof otherwise === "string" && (
        <NameField
          label={`${label}, otherwise to`}
          kind="folder"
          value={otherwise}
          onChange={(name) => onChange(guessed({ ...value, otherwise: name }))}
        />
      )}
    </span>
  );
}
