import { useState, type KeyboardEvent } from "react";

interface Props {
  readonly label: string;
  readonly placeholder?: string;
  /** What the button says. */
  readonly verb: string;
  /** Trimmed, and not empty. @returns whether it was taken */
  readonly onAdd: (text: string) => Promise<boolean>;
  readonly id?: string;
  readonly autoFocus?: boolean;
  readonly onKeyDown?: (event: KeyboardEvent<HTMLInputElement>) => void;
  readonly className?: string;
}

/**
 * A field by which one thing after the other is added. It is free for the next one at once; what is refused comes
 * back to be mended, unless something else is being typed by then.
 */
export function AddLine({ label, placeholder, verb, onAdd, id, autoFocus, onKeyDown, className = "" }: Props) {
  const [text, setText] = useState("");
  const add = async () => {
    const added = text.trim();
    if (added === "") return;
    setText("");
    if (!(await onAdd(added))) setText((typed) => typed || text);
  };
  return (
    <form
      className={`flex gap-2 text-[13px] ${className}`}
      onSubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <input
        id={id}
        autoFocus={autoFocus}
        aria-label={label}
        placeholder={placeholder ?? label}
        value={text}
        onChange={({ target }) => setText(target.value)}
        onKeyDown={onKeyDown}
        className="min-w-0 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1"
      />
      <button type="submit" className="rounded-sm bg-ink px-3 py-1 text-paper">
        {verb}
      </button>
    </form>
  );
}
