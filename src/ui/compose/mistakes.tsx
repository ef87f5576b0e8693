"use client";
import type { Mistake } from "@/core/letter";

interface Props {
  readonly mistakes: readonly Mistake[];
  readonly onMend: (mistake: Mistake) => void;
  readonly onSend: () => void;
}

/** What may be wrong with a letter, each with what mends it. */
export function Mistakes({ mistakes, onMend, onSend }: Props) {
  if (mistakes.length === 0) return null;
  const stops = mistakes.some(({ severity }) => severity === "stops");
  return (
    <div role="alert" className="border-t border-rule bg-amber-soft px-3.5 py-2 text-[13px]">
      <ul className="grid gap-1">
        {mistakes.map((mistake) => (
          <li key={mistake.code + mistake.text} className="flex flex-wrap items-center gap-2">
            <span>{mistake.text}</span>
            <button
              type="button"
              onClick={() => onMend(mistake)}
              className="rounded-sm border border-edge bg-sheet px-2 py-0.5"
            >
              {mistake.repair.text}
            </button>
          </li>
        ))}
      </ul>
      {!stops && (
        <button type="button" onClick={onSend} className="mt-1.5 rounded-sm border border-edge bg-sheet px-2 py-0.5">
          Send it as it is <kbd>Ctrl ⏎</kbd>
        </button>
      )}
    </div>
  );
}
