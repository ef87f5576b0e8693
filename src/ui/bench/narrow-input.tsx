"use client";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import { complete, type Completion } from "@/core/narrow";
import { checkNarrow, endPreview, narrowBy, preview, widen } from "../state/browse";
import { narrowings } from "../state/reads";
import { set, useView, view } from "../state/store";
import { vocabulary } from "../state/vocabulary";
import { countText } from "../parts/words";
import { Problem } from "./narrow-problem";

interface Offer extends Completion {
  /** A condition that was used before, offered whole. */
  readonly earlier?: true;
}

const MOST_EARLIER = 8;
const NO_TEXTS: readonly string[] = [];

/** What was narrowed by before, and then what the language offers. */
function offersFor(text: string, caret: number, earlier: readonly string[]): Offer[] {
  const typed = text.trim().toLowerCase();
  const before = earlier
    .filter((one) => one.toLowerCase().includes(typed) && one !== text)
    .slice(0, typed === "" ? MOST_EARLIER : 3)
    .map((one): Offer => ({
      text: one,
      span: { from: 0, to: text.length },
      detail: "used before",
      count: null,
      whole: true,
      earlier: true,
    }));
  return [...before, ...complete(text, caret, vocabulary)];
}

/** Where conditions are typed, with what could be meant beneath. */
export function NarrowInput() {
  const narrowing = useView((v) => v.narrowing);
  const [text, setText] = useState("");
  const [caret, setCaret] = useState(0);
  const [at, setAt] = useState(-1);
  const { data: earlier = NO_TEXTS } = useQuery({ ...narrowings, enabled: narrowing });
  const [wrong, setWrong] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  /** The message the focus was on when narrowing began. */
  const before = useRef<number | null>(null);
  const listId = useId();

  useEffect(() => {
    if (!narrowing) return;
    before.current = view().focusId;
    input.current?.focus();
  }, [narrowing]);

  const offers = narrowing ? offersFor(text, caret, earlier) : [];
  const leave = () => {
    setText("");
    setAt(-1);
    setWrong(false);
    endPreview(before.current);
    set({ narrowing: false });
    document.getElementById("messages")?.focus();
  };
  const put = (next: string, place = next.length) => {
    setText(next);
    preview(next);
    setCaret(place);
    setAt(-1);
    setWrong(false);
    requestAnimationFrame(() => input.current?.setSelectionRange(place, place));
  };
  const take = ({ text: chosen, span, whole }: Offer) => {
    const next = text.slice(0, span.from) + chosen + (whole ? " " : "") + text.slice(span.to).trimStart();
    put(next, span.from + chosen.length + (whole ? 1 : 0));
  };
  const submit = () => {
    if (narrowBy(text) === null) leave();
    else setWrong(true);
  };
  const keys: Record<string, () => void> = {
    Enter: () => (offers[at] ? take(offers[at]) : submit()),
    Escape: leave,
    ArrowDown: () => setAt(Math.min(offers.length - 1, at + 1)),
    ArrowUp: () => setAt(Math.max(-1, at - 1)),
  };
  const checked = wrong ? checkNarrow(text) : null;
  return (
    <div className="relative min-w-32 flex-1 max-md:static max-md:min-w-32">
      <input
        ref={input}
        value={text}
        role="combobox"
        aria-label="Narrow further"
        aria-expanded={offers.length > 0}
        aria-controls={listId}
        aria-activedescendant={at >= 0 ? `${listId}-${at}` : undefined}
        aria-invalid={wrong}
        aria-describedby={wrong ? "narrow-problem" : undefined}
        placeholder="/ narrow further…"
        autoComplete="off"
        spellCheck={false}
        onFocus={() => set({ narrowing: true })}
        onBlur={() => text === "" && set({ narrowing: false })}
        onSelect={(event) => setCaret(event.currentTarget.selectionStart ?? 0)}
        onChange={(event) => put(event.target.value, event.target.selectionStart ?? event.target.value.length)}
        onKeyDown={(event) => {
          const act = keys[event.key];
          if (act) {
            event.preventDefault();
            act();
          } else if (event.key === "Tab" && !event.shiftKey && offers.length > 0 && text !== "") {
            event.preventDefault();
            take(offers[Math.max(0, at)]!);
          } else if (event.key === "Backspace" && text === "") widen();
        }}
        className="w-full bg-transparent px-1 py-1 placeholder:text-ink-3"
      />
      {checked && !checked.ok && (
        <Problem
          text={text}
          issues={checked.issues}
          onRepair={(mended) => {
            put(mended);
            input.current?.focus();
          }}
        />
      )}
      {!wrong && offers.length > 0 && (
        <ul
          id={listId}
          role="listbox"
          aria-label="What could be meant"
          className="absolute top-[36px] left-0 z-20 max-h-80 min-w-80 max-md:inset-x-2 max-md:top-[42px] overflow-y-auto rounded-md border border-edge bg-sheet py-1"
        >
          {offers.map((offer, i) => (
            <li
              key={`${i} ${offer.text}`}
              id={`${listId}-${i}`}
              role="option"
              aria-selected={i === at}
              ref={(element) => {
                if (i === at) element?.scrollIntoView({ block: "nearest" });
              }}
              // The text keeps the caret: a click that took it would close the list before it is heard.
              onMouseDown={(event) => {
                event.preventDefault();
                take(offer);
              }}
              className={`flex justify-between gap-4 px-3 py-1 ${i === at ? "bg-spruce-soft shadow-[inset_0_0_0_2px_var(--ink)]" : ""}`}
            >
              <span className="truncate">{offer.text}</span>
              <span className="shrink-0 font-sans text-xs text-ink-2">
                {offer.detail} {offer.count !== null && <span className="num">{countText(offer.count)}</span>}
              </span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
