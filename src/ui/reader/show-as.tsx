import type { ReactNode } from "react";

export type Shown = "message" | "plain" | "headers" | "source";
const SHOWN: readonly (readonly [Shown, string])[] = [
  ["message", "Message"],
  ["plain", "Plain text"],
  ["headers", "Headers"],
  ["source", "Source"],
];

interface Props {
  readonly shown: Shown;
  readonly onShow: (shown: Shown) => void;
  /** What stands at the end of the line. */
  readonly children: ReactNode;
}

/** The ways to look at a message. */
export const ShowAs = ({ shown, onShow, children }: Props) => (
  <div className="mt-2 flex flex-wrap gap-1 text-xs print:hidden" role="group" aria-label="Show as">
    {SHOWN.map(([name, title]) => (
      <button
        key={name}
        type="button"
        aria-pressed={shown === name}
        onClick={() => onShow(name)}
        className={`rounded-sm px-2 py-0.5 ${shown === name ? "bg-ink text-paper" : "border border-rule bg-sheet"}`}
      >
        {title}
      </button>
    ))}
    {children}
  </div>
);
