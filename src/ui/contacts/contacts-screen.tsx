"use client";
import { useQuery } from "@tanstack/react-query";
import { useState, type KeyboardEvent } from "react";
import { useDeleteKey } from "../input/captured-keys";
import { AddLine } from "../parts/add-line";
import { useFocusIn } from "../parts/focus-in";
import { ListLine } from "../parts/list-line";
import { HeaderNotice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { countText } from "../parts/words";
import { redoLast, undoLast } from "../state/edits";
import { contacts } from "../state/reads";
import { useView } from "../state/store";
import { CardFiles } from "./card-files";
import { FIELD, put } from "./change";
import { Groups } from "./groups";
import { NAME_FIELD, Person, removeContact } from "./person";

const SEARCH_FIELD = "contacts-search";
const FRESH_FIELD = "contacts-fresh";
const leaveOnEscape = ({ key, currentTarget }: KeyboardEvent<HTMLElement>) => key === "Escape" && currentTarget.blur();

/** People one writes to: kept by hand or by macros. */
export function ContactsScreen({ of }: { readonly of: string | null }) {
  const { data = [], error } = useQuery(contacts);
  const [sought, setSought] = useState("");
  const needle = sought.trim().toLowerCase();
  const found = data.filter(({ name, address }) => `${name} ${address}`.toLowerCase().includes(needle));
  // Whoever was asked for has a page, contact or not; else it is of the first that is listed.
  const {
    key: address,
    choose,
    moves,
  } = useFocusIn(
    found.map((one) => one.address),
    of?.toLowerCase() ?? null,
  );
  const shown = data.find((one) => one.address === address) ?? null;
  const dialog = useView((v) => v.dialog);
  useDeleteKey(dialog === null && shown ? () => void removeContact(shown) : null);
  const goTo = (id: string) => () => document.getElementById(id)?.focus();
  useScreenKeys({
    ...moves,
    read: goTo(NAME_FIELD),
    narrow: goTo(SEARCH_FIELD),
    compose: goTo(FRESH_FIELD),
    undo: () => void undoLast(),
    redo: () => void redoLast(),
  });
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-1.5 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">Contacts</h1>
        <span className="text-[13px] text-ink-2">{countText(data.length)}</span>
        <input
          id={SEARCH_FIELD}
          aria-label="Search contacts"
          onKeyDown={leaveOnEscape}
          placeholder="Any part of a name or address"
          value={sought}
          onChange={({ target }) => setSought(target.value)}
          className={`${FIELD} w-56`}
        />
        <CardFiles />
        <HeaderNotice />
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}
        </p>
      )}
      <div className="grid min-h-0 flex-1 md:grid-cols-[minmax(200px,300px)_minmax(0,1fr)]">
        <div className="flex min-h-0 flex-col border-rule max-md:max-h-72 max-md:border-b md:border-r">
          <AddLine
            id={FRESH_FIELD}
            label="Address to keep"
            verb="Keep"
            onAdd={async (address) => {
              const isKept = await put(
                "POST",
                "/contacts",
                { address, name: "" },
                `${address} is kept. U takes it back.`,
              );
              if (isKept) choose(address.toLowerCase());
              return isKept;
            }}
            onKeyDown={leaveOnEscape}
            className="px-3.5 py-2"
          />
          <ul aria-label="All contacts" className="min-h-0 flex-1 overflow-y-auto">
            {data.length === 0 && (
              <li className="px-3.5 py-2 text-[13px] text-ink-2">
                Nobody is kept yet. Whom you write to is offered anyway; the step “Add contact” keeps senders.
              </li>
            )}
            {found.map((one) => (
              <ListLine
                key={one.address}
                title={one.name || one.address}
                under={one.name === "" ? "" : one.address}
                isCurrent={one.address === address}
                onChoose={() => choose(one.address)}
              />
            ))}
          </ul>
          <Groups people={data} />
        </div>
        {address !== null && <Person key={address} address={address} contact={shown} others={data} />}
      </div>
      <footer className="border-t border-rule px-3.5 py-1.5 text-[13px] text-ink-2 max-md:hidden">
        <kbd>J</kbd> <kbd>K</kbd> one to the next, <kbd>Space</kbd> changes the name, <kbd>/</kbd> searches,{" "}
        <kbd>N</kbd> keeps an address, <kbd>Del</kbd> removes, <kbd>U</kbd> takes back, <kbd>Esc</kbd> leaves a field.
      </footer>
    </main>
  );
}
