import { useState, type HTMLInputTypeAttribute } from "react";

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 text-[13px] max-md:py-1.5";

interface LabelledProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly type?: HTMLInputTypeAttribute;
  /** What the browser may fill in (HTML, autofill). */
  readonly fills?: string;
  /** What is wrong with it; null for nothing. */
  readonly problem?: string | null;
  readonly hint?: string;
  readonly isFirst?: boolean;
}

/** A field with its name above it, and what is wrong below. What is secret can be looked at. */
export function Labelled({
  label,
  value,
  onChange,
  type = "text",
  fills = "off",
  problem = null,
  hint,
  isFirst = false,
}: LabelledProps) {
  const [isShown, setShown] = useState(false);
  const isSecret = type === "password";
  const id = `field-${label.replace(/\W+/g, "-").toLowerCase()}`;
  const below = problem ?? hint;
  return (
    <div className="grid gap-1">
      <label htmlFor={id} className="text-[13px] font-semibold">
        {label}
      </label>
      <div className="flex gap-1.5">
        <input
          id={id}
          type={isSecret && isShown ? "text" : type}
          value={value}
          autoComplete={fills}
          spellCheck={false}
          // The screen is this form: what is typed first is for it.
          autoFocus={isFirst}
          aria-invalid={problem !== null}
          aria-describedby={below ? `${id}-below` : undefined}
          onChange={({ target }) => onChange(target.value)}
          className="min-w-0 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1.5"
        />
        {isSecret && (
          <button type="button" aria-pressed={isShown} onClick={() => setShown(!isShown)} className={BUTTON}>
            {isShown ? "Hide" : "Show"}
          </button>
        )}
      </div>
      {below && (
        <p id={`${id}-below`} className={`text-xs ${problem === null ? "text-ink-2" : "text-brick"}`}>
          {below}
        </p>
      )}
    </div>
  );
}
