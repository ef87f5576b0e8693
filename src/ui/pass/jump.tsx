"use client";
import { useState } from "react";
import { Modal } from "../parts/picker";
import { jump } from "../state/pass";
import { set, useView } from "../state/store";

/** Goes to a message of the pass by its number, or by a word of its sender or subject. */
export function Jump() {
  const length = useView((v) => v.listing.items.length);
  const [typed, setTyped] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const close = () => set({ dialog: null });
  return (
    <Modal title="Go to a message of the pass" onClose={close}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const why = jump(typed);
          if (why === null) close();
          else setProblem(why);
        }}
      >
        <input
          autoFocus
          aria-label="Number, or a word of sender or subject"
          placeholder={`1 to ${length}, or a word of sender or subject`}
          value={typed}
          onChange={({ target }) => {
            setTyped(target.value);
            setProblem(null);
          }}
          className="w-full border-b border-rule bg-transparent px-3 py-2.5 outline-none"
        />
        <p
          role={problem ? "alert" : "status"}
          className={`px-3 py-2 text-[13px] ${problem ? "text-brick" : "text-ink-2"}`}
        >
          {problem ?? "Enter goes there; what lies between stays to be decided."}
        </p>
      </form>
    </Modal>
  );
}
