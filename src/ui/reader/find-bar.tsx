"use client";
import { useEffect, useRef, useState, type RefObject } from "react";
import { set, useView } from "../state/store";

/** Everything marked in the message, also within the frame of an HTML one, in order. */
function marksIn(box: HTMLElement | null): HTMLElement[] {
  const frame = box?.querySelector("iframe")?.contentDocument;
  return [
    ...(box?.querySelectorAll<HTMLElement>("mark") ?? []),
    ...(frame?.querySelectorAll<HTMLElement>("mark") ?? []),
  ];
}

/** Finds words in the open message: Enter goes to the next place, Shift+Enter to the one before. */
export function FindBar({ box }: { readonly box: RefObject<HTMLElement | null> }) {
  const find = useView((v) => v.find ?? "");
  const [count, setCount] = useState(0);
  const [at, setAt] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => input.current?.select(), []);
  useEffect(() => {
    // The marks are made after the text is drawn.
    const timer = setTimeout(() => {
      setCount(find.trim() === "" ? 0 : marksIn(box.current).length);
      setAt(0);
    }, 50);
    return () => clearTimeout(timer);
  }, [find, box]);
  const go = (by: 1 | -1) => {
    const marks = marksIn(box.current);
    if (marks.length === 0) return;
    const next = (at + by + marks.length) % marks.length;
    marks[at]?.removeAttribute("data-here");
    marks[next]!.setAttribute("data-here", "");
    marks[next]!.scrollIntoView({ block: "center" });
    setAt(next);
  };
  const close = () => {
    set({ find: null });
    document.getElementById("messages")?.focus();
  };
  return (
    <div className="sticky -top-3.5 z-10 -mx-[18px] -mt-3.5 mb-2 flex items-center gap-2 border-b border-rule bg-well px-[18px] py-1.5 text-[13px] print:hidden">
      <input
        ref={input}
        value={find}
        aria-label="Find in the message"
        placeholder="Find in the message"
        onChange={(event) => set({ find: event.target.value })}
        onKeyDown={(event) => {
          if (event.key === "Escape") close();
          else if (event.key === "Enter") go(event.shiftKey ? -1 : 1);
          else return;
          event.preventDefault();
        }}
        className="min-w-0 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1"
      />
      <span role="status" className="num text-xs text-ink-2">
        {find.trim() === "" ? "" : count === 0 ? "not found" : `${at + 1} of ${count}`}
      </span>
      <button type="button" onClick={() => go(-1)} className="rounded-sm border border-rule bg-sheet px-2 py-0.5">
        previous
      </button>
      <button type="button" onClick={() => go(1)} className="rounded-sm border border-rule bg-sheet px-2 py-0.5">
        next
      </button>
      <button type="button" onClick={close} className="rounded-sm border border-rule bg-sheet px-2 py-0.5">
        close
      </button>
    </div>
  );
}
