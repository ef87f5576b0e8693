"use client";
import { Dialog } from "radix-ui";
import { useId, useState, type ReactNode } from "react";
import { findNames } from "@/core/place";

export interface Choice {
  readonly id: string;
  readonly name: string;
  readonly detail?: ReactNode;
  /** One of those offered first: a digit takes it while nothing is typed. */
  readonly first?: boolean;
}

interface Props {
  readonly title: string;
  readonly choices: readonly Choice[];
  readonly onChoose: (id: string) => void;
  readonly onClose: () => void;
  /** Offers what was typed as a new thing, when no choice has that name. */
  readonly onCreate?: (name: string) => void;
  readonly createText?: string;
  readonly problem?: string | null;
}

const MOST_SHOWN = 200;

/** A list to choose from by typing any part of a name. */
export function Picker({ title, choices, onChoose, onClose, onCreate, createText, problem }: Props) {
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const listId = useId();
  const found = findNames(choices, (choice) => choice.name, typed).slice(0, MOST_SHOWN);
  const name = typed.trim();
  const fresh = onCreate && name !== "" && !choices.some((choice) => choice.name.toLowerCase() === name.toLowerCase());
  const count = found.length + (fresh ? 1 : 0);
  const active = Math.min(at, count - 1);
  const quick = typed === "" ? found.filter((choice) => choice.first).slice(0, 9) : [];
  const choose = (index: number) => {
    const choice = found[index];
    if (choice) onChoose(choice.id);
    else if (fresh) onCreate(name);
  };
  return (
    <Modal title={title} onClose={onClose}>
      <input
        autoFocus
        role="combobox"
        aria-expanded
        aria-controls={listId}
        aria-activedescendant={count > 0 ? `${listId}-${active}` : undefined}
        aria-label={title}
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          const move = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8 }[event.key];
          if (move) {
            event.preventDefault();
            setAt(Math.max(0, Math.min(count - 1, active + move)));
          } else if (quick[Number(event.key) - 1]) {
            event.preventDefault();
            onChoose(quick[Number(event.key) - 1]!.id);
          } else if (event.key === "Enter") {
            event.preventDefault();
            choose(active);
          }
        }}
        className="w-full border-b border-rule bg-sheet px-4 py-3 text-base outline-none"
        placeholder="Type any part of the name"
      />
      {problem && (
        <p role="alert" className="bg-brick-soft px-4 py-2 text-[13px]">
          {problem}
        </p>
      )}
      <ul id={listId} role="listbox" aria-label={title} className="max-h-80 overflow-y-auto py-1">
        {found.map((choice, i) => (
          <Option key={choice.id} id={`${listId}-${i}`} active={i === active} onChoose={() => choose(i)}>
            <span className="truncate">{choice.name}</span>
            <span className="shrink-0 text-xs text-ink-2">
              {choice.detail} {i < quick.length && <kbd>{i + 1}</kbd>}
            </span>
          </Option>
        ))}
        {fresh && (
          <Option
            id={`${listId}-${found.length}`}
            active={active === found.length}
            onChoose={() => choose(found.length)}
          >
            <span>
              {createText ?? "Make"} <b>{name}</b>
            </span>
          </Option>
        )}
        {count === 0 && (
          <li role="option" aria-selected={false} className="px-4 py-2 text-ink-2">
            Nothing has that in its name.
          </li>
        )}
      </ul>
    </Modal>
  );
}

function Option({
  id,
  active,
  onChoose,
  children,
}: {
  id: string;
  active: boolean;
  onChoose: () => void;
  children: ReactNode;
}) {
  return (
    <li
      id={id}
      role="option"
      aria-selected={active}
      ref={(element) => {
        if (active) element?.scrollIntoView({ block: "nearest" });
      }}
      onClick={onChoose}
      className={`flex items-baseline justify-between gap-4 px-4 py-1.5 ${active ? "bg-spruce-soft shadow-[inset_0_0_0_2px_var(--ink)]" : ""}`}
    >
      {children}
    </li>
  );
}

/** A sheet over the screen that keeps the keyboard until it is closed. */
/** What lies over the screen: in its middle, or on a phone as a sheet from below, where the thumb is. */
export function Modal({
  title,
  onClose,
  children,
  wide,
  overflows,
}: {
  readonly title: string;
  readonly onClose: () => void;
  readonly children: ReactNode;
  readonly wide?: boolean;
  /** What it offers may stand out of it. */
  readonly overflows?: boolean;
}) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed z-50 max-h-[76vh] max-md:inset-x-0 max-md:bottom-0 max-md:w-full max-md:rounded-t-md max-md:border-t-2 max-md:pb-[env(safe-area-inset-bottom)] md:top-[12vh] md:left-1/2 md:-translate-x-1/2 md:rounded-md md:border-2 ${wide ? "md:w-[min(880px,94vw)]" : "md:w-[min(520px,94vw)]"} ${overflows ? "" : "overflow-hidden"} border-ink bg-sheet text-ink`}
        >
          <Dialog.Title className="bg-well px-4 py-2 text-[13px] font-bold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
