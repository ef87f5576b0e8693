"use client";
import { useRef, useState } from "react";
import { Picker } from "../parts/picker";
import { make } from "../places/act";
import { useView } from "../state/store";

export const FIELD = "rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";

type Named = "folder" | "label" | "macro";

interface Props {
  readonly label: string;
  readonly kind: Named;
  readonly value: string;
  readonly onChange: (name: string) => void;
  /** Whether its picker is open from the start, and what leaving that without a choice does. */
  readonly begins?: () => void;
}

/** A folder, label or macro, chosen by any part of its name; the first two can be made on the spot. */
export function NameField({ label, kind, value, onChange, begins }: Props) {
  const directory = useView((v) => v.directory);
  const macros = useView((v) => v.macros);
  const [open, setOpen] = useState(begins !== undefined);
  const [problem, setProblem] = useState<string | null>(null);
  const button = useRef<HTMLButtonElement>(null);
  const names = {
    folder: directory.folders.map((f) => f.path),
    label: directory.labels.map((l) => l.name),
    macro: macros.map((m) => m.name),
  }[kind];
  const close = () => {
    setOpen(false);
    // The picker gives the focus back to what had it before, which may be gone: it belongs here.
    setTimeout(() => button.current?.focus(), 0);
  };
  const choose = (name: string) => {
    close();
    onChange(name);
  };
  const create = async (name: string) => {
    if (kind !== "macro" && (await make(kind, name, setProblem))) choose(name);
  };
  const missing = value !== "" && !names.some((name) => name.toLowerCase() === value.toLowerCase());
  return (
    <>
      <button
        ref={button}
        type="button"
        aria-label={`${label}: ${value || "choose"}`}
        data-field
        onClick={() => setOpen(true)}
        className={`${FIELD} min-w-32 flex-1 truncate text-left ${missing ? "border-brick" : ""}`}
      >
        {value || "choose…"}
        {missing && <span className="text-brick"> (does not exist)</span>}
      </button>
      {open && (
        <Picker
          title={`Which ${kind}?`}
          choices={names.map((name) => ({ id: name, name }))}
          onChoose={choose}
          onClose={() => {
            close();
            begins?.();
          }}
          {...(kind === "macro" ? {} : { onCreate: create, createText: `Make the ${kind}` })}
          problem={problem}
        />
      )}
    </>
  );
}
