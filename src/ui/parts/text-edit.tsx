"use client";
import { useState, type KeyboardEvent } from "react";

interface Props {
  readonly label: string;
  readonly value: string;
  /** @returns whether it was stored; what was not stays, marked, until it is mended or Esc is pressed */
  readonly onChange: (text: string) => Promise<boolean>;
  /** A text of so many lines, where Enter begins another; otherwise a name, which cannot be empty. */
  readonly lines?: number;
  /** What stands there while it is empty, where it may be. */
  readonly empty?: string;
  /** Whether it looks like a field also while nobody is in it; what may be empty does. */
  readonly framed?: boolean;
  /** What Enter does instead of leaving the field, which is one of several that are gone through so. */
  readonly goesOn?: (field: HTMLElement) => void;
  readonly id?: string;
  readonly maxLength?: number;
  readonly className?: string;
}

const SHAPE = "min-w-0 rounded-sm border";
/** As part of the text it stands in, and as a field. */
const INLINE = "bg-transparent px-1.5 py-0.5 focus:bg-sheet";
const FRAMED = "bg-sheet px-2 py-1 text-[13px]";

/** A text that is changed where it stands: leaving it stores it, and Esc brings the old one back. */
export function TextEdit({
  label,
  value,
  onChange,
  lines,
  empty,
  framed = empty !== undefined,
  goesOn,
  ...more
}: Props) {
  const { id, maxLength, className = "" } = more;
  const [draft, setDraft] = useState<string | null>(null);
  /** What of it was sent. */
  const [sent, setSent] = useState<{ readonly text: string; readonly isRefused: boolean } | null>(null);
  const isRefused = sent?.isRefused === true && draft === sent.text;
  const put = (next: string | null) => {
    setDraft(next);
    setSent(null);
  };
  const store = async () => {
    // What was refused, or is on its way, is not sent again for being passed by.
    if (draft === null || draft === sent?.text) return;
    const text = draft.trim();
    if (text === value || (text === "" && lines === undefined && empty === undefined)) return put(null);
    setSent({ text: draft, isRefused: false });
    const isStored = await onChange(text);
    setSent(isStored ? null : { text: draft, isRefused: true });
    // Not what has been typed since.
    if (isStored) setDraft((now) => (now === draft ? null : now));
  };
  const field = {
    id,
    maxLength,
    "data-field": goesOn && "",
    "aria-label": label,
    "aria-invalid": isRefused,
    placeholder: empty,
    value: draft ?? value,
    onChange: ({ target }: { readonly target: { readonly value: string } }) => put(target.value),
    onBlur: () => void store(),
    onKeyDown: (event: KeyboardEvent<HTMLElement>) => {
      if (event.key === "Enter" && lines === undefined) {
        // Or the same stroke would press the button it leads to.
        event.preventDefault();
        if (goesOn) goesOn(event.currentTarget);
        else event.currentTarget.blur();
      }
      if (event.key !== "Escape") return;
      event.stopPropagation();
      if (draft === null) event.currentTarget.blur();
      else put(null);
    },
    className: `${SHAPE} ${framed ? FRAMED : INLINE} ${isRefused ? "border-brick" : framed ? "border-edge" : "border-transparent hover:border-rule focus:border-edge"} ${className}`,
  };
  return lines === undefined ? <input {...field} /> : <textarea rows={lines} {...field} />;
}
