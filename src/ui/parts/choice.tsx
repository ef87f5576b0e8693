interface Props<T extends string> {
  readonly label: string;
  readonly options: readonly T[];
  readonly value: T;
  readonly onChoose: (one: T) => void;
  /** What is written on one, where that is not its name. */
  readonly words?: (one: T) => string;
  /** Whether the digits choose, too. */
  readonly numbered?: boolean;
}

/** One of a few, side by side. */
export function Choice<T extends string>({ label, options, value, onChoose, words, numbered = false }: Props<T>) {
  return (
    <span role="group" aria-label={label} className="flex flex-wrap text-[13px]">
      {options.map((one, i) => (
        <button
          key={one}
          type="button"
          aria-pressed={one === value}
          onClick={() => onChoose(one)}
          className={`border border-edge px-2.5 py-0.5 not-first:border-l-0 first:rounded-l-sm last:rounded-r-sm max-md:py-1.5 ${one === value ? "bg-ink text-paper" : "bg-sheet"}`}
        >
          {words ? words(one) : one}
          {numbered && (
            <span aria-hidden className="ml-1 font-mono text-[11px] max-md:hidden">
              {i + 1}
            </span>
          )}
        </button>
      ))}
    </span>
  );
}
