"use client";
import { plural } from "../parts/words";
import { set, useView } from "../state/store";

/** On every screen while there are decisions that could not be done. */
export function AsideBar() {
  const count = useView((v) => v.aside.length);
  if (count === 0) return null;
  return (
    <div
      role="alert"
      data-testid="aside"
      className="flex shrink-0 items-center gap-3 border-b border-rule bg-brick-soft px-3.5 py-1.5 text-[13px] text-ink md:border-t md:border-b-0 print:hidden"
    >
      <b>Not done</b>
      <span className="min-w-0 flex-1 truncate">
        {plural(count, "decision")} could not be done. The mail is as it was without {count === 1 ? "it" : "them"}.
      </span>
      <button
        type="button"
        className="rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px]"
        onClick={() => set({ dialog: { kind: "aside" } })}
      >
        Look at {count === 1 ? "it" : "them"}
      </button>
    </div>
  );
}
