import { useLeftText } from "./left-text";

/** How fields look. */
export const FIELD = "min-w-0 rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";

interface FieldProps {
  readonly label: string;
  readonly value: string;
  readonly placeholder?: string;
  /** What is wrong with a text, in words; null where it can be stored. */
  readonly problem: (text: string) => string | null;
  readonly onDone: (text: string) => void;
  readonly className?: string;
  readonly id?: string;
}

/** A text that is stored when it is left or Enter is pressed; one that cannot be stays, and says why. Esc is what it was. */
export function Field({ label, value, placeholder, problem, onDone, className = "", id }: FieldProps) {
  const { text, type, rest } = useLeftText(value);
  const wrong = text === value ? null : problem(text);
  const done = (left: string) => {
    rest(left);
    if (left.trim() !== value && problem(left) === null) onDone(left.trim());
  };
  return (
    <span className={`grid ${className}`}>
      <input
        id={id}
        aria-label={label}
        aria-invalid={wrong !== null}
        value={text}
        placeholder={placeholder}
        onChange={({ target }) => type(target.value)}
        onBlur={({ target }) => done(target.value)}
        onKeyDown={({ key, currentTarget }) => {
          if (key === "Enter") done(currentTarget.value);
          if (key === "Escape") {
            rest(value);
            // At once: leaving the field stores what is in it.
            currentTarget.value = value;
            currentTarget.blur();
          }
        }}
        className={FIELD}
      />
      {wrong !== null && <span className="pt-0.5 text-xs text-brick">{wrong}</span>}
    </span>
  );
}
