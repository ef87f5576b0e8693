"use client";
import { useQuery } from "@tanstack/react-query";
import { flushSync } from "react-dom";
import { useEffect, useId, useMemo, useRef, useState, type KeyboardEvent } from "react";
import { eachOnce, isAddress, readCorrespondents, writeCorrespondent, type Correspondent } from "@/core/letter";
import { correspondents } from "../state/reads";
import { letKeysGo } from "../input/held-keys";

interface Props {
  readonly label: string;
  readonly people: readonly Correspondent[];
  readonly onChange: (people: readonly Correspondent[]) => void;
  readonly begins?: boolean;
}

interface Offer {
  readonly key: string;
  readonly name: string;
  readonly detail: string;
  readonly people: readonly Correspondent[];
}

const MOST_OFFERED = 8;

const folded = (text: string): string => text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();

/** Whom a few letters may mean, those written to most first. */
function useOffers(typed: string, people: readonly Correspondent[]): readonly Offer[] {
  const { data } = useQuery(correspondents);
  return useMemo(() => {
    const sought = folded(typed.trim());
    if (sought === "" || !data) return [];
    const taken = new Set(people.map(({ address }) => address.toLowerCase()));
    const begins = (text: string) =>
      folded(text)
        .split(/[\s.@_-]+/)
        .some((word) => word.startsWith(sought));
    const groups = data.groups
      .filter(({ name }) => begins(name))
      .map(({ id, name, members }): Offer => ({
        key: `group ${id}`,
        name,
        detail: `group of ${members.length}`,
        people: members.map((address) => ({
          address,
          name: data.people.find((one) => one.address === address)?.name ?? "",
        })),
      }));
    const found = data.people
      .filter(
        (one) =>
          !taken.has(one.address) &&
          (begins(one.name) || folded(one.address).startsWith(sought) || begins(one.address)),
      )
      .slice(0, MOST_OFFERED)
      .map(({ address, name }): Offer => ({
        key: address,
        name: name || address,
        detail: name ? address : "",
        people: [{ name, address }],
      }));
    return [...groups, ...found].slice(0, MOST_OFFERED);
  }, [typed, data, people]);
}

/** People a letter goes to, as chips: typed, completed, pasted by the dozen, put in another order by keys. */
export function Recipients({ label, people, onChange, begins = false }: Props) {
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const [open, setOpen] = useState(false);
  const offers = useOffers(typed, people);
  const list = useId();
  const input = useRef<HTMLInputElement>(null);
  const chips = useRef<(HTMLButtonElement | null)[]>([]);
  const shown = open && offers.length > 0;
  useEffect(() => {
    if (begins) letKeysGo("letter");
  }, [begins]);

  const add = (more: readonly Correspondent[]) => {
    onChange(eachOnce([...people, ...more]));
    setTyped("");
    setAt(0);
  };
  /** Takes what is typed as it stands. @returns whether there was anything */
  const settle = (): boolean => {
    if (typed.trim() === "") return false;
    add(readCorrespondents(typed));
    return true;
  };
  const edit = (index: number) => {
    setTyped(writeCorrespondent(people[index]!));
    onChange(people.filter((_, i) => i !== index));
    input.current?.focus();
  };
  const keys = (event: KeyboardEvent<HTMLInputElement>) => {
    const { key } = event;
    if (shown && (key === "ArrowDown" || key === "ArrowUp")) {
      event.preventDefault();
      setAt((at + (key === "ArrowDown" ? 1 : offers.length - 1)) % offers.length);
    } else if (shown && (key === "Enter" || key === "Tab") && !event.ctrlKey && !isAddress(typed.trim())) {
      event.preventDefault();
      add(offers[Math.min(at, offers.length - 1)]!.people);
    } else if (key === "Enter" && event.ctrlKey && typed.trim() !== "") {
      // Who is being typed counts for what this key does to the letter: it goes on with them among the others.
      const offered = shown && !isAddress(typed.trim()) ? offers[Math.min(at, offers.length - 1)]!.people : null;
      flushSync(() => add(offered ?? readCorrespondents(typed)));
    } else if (key === "Escape" && shown) {
      event.stopPropagation();
      setOpen(false);
    } else if ((key === "Enter" && !event.ctrlKey) || key === "," || key === ";") {
      if (settle() || key !== "Enter") event.preventDefault();
    } else if (key === "Tab") settle();
    else if (key === "Backspace" && typed === "" && people.length > 0) {
      event.preventDefault();
      edit(people.length - 1);
    } else if (key === "ArrowLeft" && typed === "" && people.length > 0) {
      event.preventDefault();
      chips.current[people.length - 1]?.focus();
    }
  };
  const chipKeys = (event: KeyboardEvent, index: number) => {
    const by = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    if (by !== 0 && event.altKey) {
      event.preventDefault();
      const to = index + by;
      if (to < 0 || to >= people.length) return;
      const next = [...people];
      next.splice(to, 0, ...next.splice(index, 1));
      onChange(next);
      chips.current[to]?.focus();
    } else if (by !== 0) {
      event.preventDefault();
      (chips.current[index + by] ?? input.current)?.focus();
    } else if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      onChange(people.filter((_, i) => i !== index));
      input.current?.focus();
    }
  };
  return (
    <div className="grid grid-cols-[52px_minmax(0,1fr)] items-start border-b border-rule-soft py-0.5">
      <label htmlFor={`${list}-input`} className="pt-1 text-[13px] text-ink-2">
        {label}
      </label>
      <div className="relative flex min-w-0 flex-wrap items-center gap-1">
        {people.map((one, i) => (
          <button
            key={one.address + String(i)}
            ref={(element) => void (chips.current[i] = element)}
            type="button"
            title={`${one.address}: Enter edits, Delete takes out, Alt and an arrow moves`}
            aria-label={`${label}: ${writeCorrespondent(one)}`}
            onClick={() => edit(i)}
            onKeyDown={(event) => chipKeys(event, i)}
            className={`max-w-full truncate rounded-sm border px-1.5 py-0.5 text-[13px] ${isAddress(one.address) ? "border-rule bg-sheet" : "border-brick bg-brick-soft"}`}
          >
            {one.name || one.address}
          </button>
        ))}
        <input
          id={`${list}-input`}
          ref={input}
          autoFocus={begins}
          role="combobox"
          aria-expanded={shown}
          aria-controls={list}
          aria-activedescendant={shown ? `${list}-${at}` : undefined}
          aria-autocomplete="list"
          autoComplete="off"
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
            setAt(0);
            setOpen(true);
          }}
          onPaste={(event) => {
            const text = event.clipboardData.getData("text/plain");
            const read = readCorrespondents(text);
            if (read.length < 2 && !read.some(({ address }) => isAddress(address))) return;
            event.preventDefault();
            add(read);
          }}
          onKeyDown={keys}
          onBlur={() => {
            setOpen(false);
            settle();
          }}
          className="min-w-32 flex-1 bg-transparent py-1 text-[14px] outline-none"
        />
        {shown && (
          <ul
            id={list}
            role="listbox"
            aria-label={`People for ${label}`}
            className="absolute top-full left-0 z-20 mt-1 w-full max-w-md rounded-md border-2 border-ink bg-sheet py-1"
          >
            {offers.map((offer, i) => (
              <li
                key={offer.key}
                id={`${list}-${i}`}
                role="option"
                aria-selected={i === at}
                // Before the field loses the focus and takes the letters as they are.
                onPointerDown={(event) => {
                  event.preventDefault();
                  add(offer.people);
                }}
                className={`flex justify-between gap-3 px-3 py-1 text-[13px] ${i === at ? "bg-spruce-soft shadow-[inset_0_0_0_2px_var(--ink)]" : ""}`}
              >
                <span className="truncate">{offer.name}</span>
                <span className="truncate text-ink-2">{offer.detail}</span>
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
