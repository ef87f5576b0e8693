"use client";
import { useRef, useState } from "react";
import { createMacro } from "./edit";

interface Props {
  /** @param id of the macro; null where none was made */
  readonly onMade: (id: number | null) => void;
}

/** Names a new macro. It is made once, when its name is there; until then nothing is, so no letter can go elsewhere. */
export function NewMacro({ onMade }: Props) {
  const [name, setName] = useState("");
  const begun = useRef(false);
  const make = async () => {
    if (begun.current) return;
    begun.current = true;
    const id = await createMacro(name.trim());
    onMade(id);
    // What a new macro needs next is its first step.
    setTimeout(() => document.querySelector<HTMLElement>("[data-add-step='']")?.focus(), 0);
  };
  return (
    <section aria-label="Macro" className="px-[18px] py-3">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void make();
        }}
        className="grid max-w-[420px] gap-2"
      >
        <input
          autoFocus
          aria-label="Name of the macro"
          value={name}
          maxLength={80}
          placeholder="What is it to be called?"
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === "Escape" && onMade(null)}
          className="rounded-sm border border-edge bg-sheet px-2 py-1 text-[15px] font-semibold"
        />
        <p className="text-[13px] text-ink-2">
          Enter makes it and leads on to its first step; Esc leaves everything as it is.
        </p>
      </form>
    </section>
  );
}
