"use client";
import { useRef, useState } from "react";
import { LINK } from "@/core/letter";
import type { Format } from "./schema";

interface Props {
  readonly plain: boolean;
  readonly onPlain?: (plain: boolean) => void;
  readonly onFormat: (format: Format) => void;
  readonly onLink: (href: string) => void;
  readonly onFiles?: (files: readonly File[]) => void;
  readonly onTemplate?: () => void;
  readonly onTimes?: () => void;
}

const FORMATS: readonly (readonly [format: Format, name: string, keys: string])[] = [
  ["bold", "bold", "Ctrl B"],
  ["italic", "italic", "Ctrl I"],
  ["list", "list", "Ctrl ⇧ 8"],
  ["numbers", "numbered", "Ctrl ⇧ 7"],
  ["quote", "quote", "Ctrl ⇧ 9"],
];
const BUTTON = "rounded-sm border border-rule bg-sheet px-1.5 py-0.5 text-xs";

/** What can be done to the text, each also by a key. */
export function Toolbar({ plain, onPlain, onFormat, onLink, onFiles, onTemplate, onTimes }: Props) {
  const [link, setLink] = useState<string | null>(null);
  const files = useRef<HTMLInputElement>(null);
  const good = link !== null && LINK.test(link.trim());
  return (
    <div role="toolbar" aria-label="Text" className="flex flex-wrap items-center gap-1 border-b border-rule-soft py-1">
      {!plain &&
        FORMATS.map(([format, name, keys]) => (
          <button key={format} type="button" title={keys} onClick={() => onFormat(format)} className={BUTTON}>
            {name}
          </button>
        ))}
      {!plain && (
        <button type="button" onClick={() => setLink(link === null ? "https://" : null)} className={BUTTON}>
          link
        </button>
      )}
      {onFiles && (
        <button type="button" onClick={() => files.current?.click()} className={BUTTON}>
          attach a file
        </button>
      )}
      {onTemplate && (
        <button type="button" onClick={onTemplate} className={BUTTON}>
          template <kbd>Ctrl E</kbd>
        </button>
      )}
      {onTimes && (
        <button type="button" onClick={onTimes} className={BUTTON}>
          offer times <kbd>Ctrl ⇧ E</kbd>
        </button>
      )}
      <input
        ref={files}
        type="file"
        multiple
        hidden
        aria-label="Files to attach"
        onChange={({ target }) => {
          onFiles?.([...(target.files ?? [])]);
          target.value = "";
        }}
      />
      {onPlain && (
        <label className="ml-auto flex items-center gap-1 text-xs text-ink-2">
          <input type="checkbox" checked={plain} onChange={({ target }) => onPlain(target.checked)} />
          plain text
        </label>
      )}
      {link !== null && (
        <form
          className="flex w-full items-center gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            event.stopPropagation();
            if (!good) return;
            onLink(link.trim());
            setLink(null);
          }}
        >
          <input
            autoFocus
            aria-label="Address of the link"
            value={link}
            onChange={({ target }) => setLink(target.value)}
            className="min-w-0 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]"
          />
          <button type="submit" disabled={!good} className={`${BUTTON} disabled:text-ink-3`}>
            put it in
          </button>
        </form>
      )}
    </div>
  );
}
