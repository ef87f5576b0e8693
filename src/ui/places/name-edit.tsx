"use client";
import { useState } from "react";

interface Props {
  readonly label: string;
  readonly value: string;
  /** @returns whether the name was taken; if not, the old one comes back */
  readonly onChange: (name: string) => Promise<boolean>;
  readonly className?: string;
}

/** A name that is changed where it stands: Enter or leaving stores it, Esc brings the old one back. */
export function NameEdit({ label, value, onChange, className = "" }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  const store = async () => {
    if (draft === null) return;
    const name = draft.trim();
    setDraft(null);
    if (name !== "" && name !== value) await onChange(name);
  };
  return (
    <input
      aria-label={label}
      value={draft ?? value}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={() => void store()}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        else if (event.key === "Escape") {
          setDraft(null);
          event.stopPropagation();
        }
      }}
      className={`min-w-0 rounded-sm border border-transparent bg-transparent px-1.5 py-0.5 hover:border-rule focus:border-edge focus:bg-sheet ${className}`}
    />
  );
}
