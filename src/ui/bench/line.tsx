"use client";
import { useEffect, useRef, useState } from "react";
import { changeOrder, narrowBy, sweep, widen } from "../state/browse";
import { set, useView } from "../state/store";
import { ExportMenu } from "./export-menu";
import { countText } from "../parts/words";
import { placeName } from "../state/places";

/** The narrow line: the place, the conditions as chips, and where the next one is typed. */
export function Line() {
  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const narrowing = useView((v) => v.narrowing);
  const ticked = useView((v) => v.ticked.size);
  const matches = useView((v) => v.matches);
  const order = useView((v) => v.order);
  const decided = useView((v) => v.decided.size);
  const link = useView((v) => v.link);
  const waiting = useView((v) => v.waiting);
  const loading = useView((v) => v.loading);
  const total = useView((v) => v.home?.messages ?? 0);
  const [text, setText] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);

  useEffect(() => {
    if (narrowing) input.current?.focus();
  }, [narrowing]);

  const leave = () => {
    setText("");
    setProblem(null);
    set({ narrowing: false });
    document.getElementById("messages")?.focus();
  };
  const submit = () => {
    const wrong = narrowBy(text);
    setProblem(wrong);
    if (wrong === null) leave();
  };

  return (
    <div className="relative flex h-[46px] shrink-0 items-center gap-2 border-b border-rule bg-paper px-3.5 font-mono text-[12.5px] whitespace-nowrap">
      <button
        type="button"
        onClick={() => set({ rackOpen: true })}
        className="rounded-sm border border-rule bg-sheet px-2 py-1 md:hidden"
        aria-label="Places"
      >
        ≡
      </button>
      <span className="max-w-44 truncate rounded-sm bg-ink px-2 py-1 text-paper">{placeName(place)}</span>
      {conditions.map((condition, i) => (
        <button
          key={`${i} ${condition}`}
          type="button"
          onClick={() => widen(i)}
          title="Drop this condition"
          className="max-w-60 truncate rounded-sm border border-rule bg-sheet px-2 py-1"
        >
          {condition}{" "}
          <span aria-hidden className="text-ink-3">
            ×
          </span>
        </button>
      ))}
      <input
        ref={input}
        value={text}
        aria-label="Narrow further"
        aria-invalid={problem !== null}
        aria-describedby={problem === null ? undefined : "narrow-problem"}
        placeholder="/ narrow further…"
        onFocus={() => set({ narrowing: true })}
        onBlur={() => text === "" && set({ narrowing: false })}
        onChange={(event) => {
          setText(event.target.value);
          setProblem(null);
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") submit();
          else if (event.key === "Escape") leave();
          else if (event.key === "Backspace" && text === "") widen();
        }}
        className="min-w-16 flex-1 bg-transparent px-1 py-1 placeholder:text-ink-3"
      />
      {problem !== null && (
        <p
          id="narrow-problem"
          role="alert"
          className="absolute top-[42px] left-3.5 z-20 max-w-[80%] rounded-md border border-brick bg-brick-soft px-3 py-2 font-sans whitespace-normal text-ink"
        >
          {problem}
        </p>
      )}
      {loading !== null && (
        <span className="text-ink-2 max-md:hidden" role="status">
          read {countText(loading)} of {countText(total)}
        </span>
      )}
      {link === "away" && (
        <span role="status" className="rounded-sm bg-amber-soft px-2 py-1 text-ink">
          server away{waiting > 0 ? `, ${waiting} waiting` : ""}
        </span>
      )}
      {decided > 0 && (
        <button
          type="button"
          onClick={sweep}
          title="Backspace"
          className="rounded-sm border border-rule bg-sheet px-2 py-1 max-md:hidden"
        >
          sweep {decided}
        </button>
      )}
      <span className="max-md:hidden" data-testid="count">
        {ticked > 0 ? `${countText(ticked)} of ${countText(matches)} selected` : `${countText(matches)} messages`}
      </span>
      <span className="contents max-md:hidden">
        <button
          type="button"
          onClick={changeOrder}
          title="\"
          className="rounded-sm border border-rule bg-sheet px-2 py-1 max-md:hidden"
        >
          {order === "newest" ? "oldest last" : "oldest first"}
        </button>
        <ExportMenu />
      </span>
    </div>
  );
}
