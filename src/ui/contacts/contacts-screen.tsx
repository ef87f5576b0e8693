"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Notice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { countText } from "../parts/words";
import { takeBack } from "../state/decide";
import { contacts } from "../state/reads";
import { CardFiles } from "./card-files";
import { FIELD, put } from "./change";
import { Groups } from "./groups";
import { Person } from "./person";

/** People one writes to: kept by hand or by macros. */
export function ContactsScreen({ of }: { readonly of: string | null }) {
  const { data = [], error } = useQuery(contacts);
  const [sought, setSought] = useState("");
  const [chosen, setChosen] = useState(of?.toLowerCase() ?? null);
  const [fresh, setFresh] = useState("");
  useScreenKeys({ undo: () => takeBack("undo"), redo: () => takeBack("redo") });
  const needle = sought.trim().toLowerCase();
  const found = data.filter(({ name, address }) => `${name} ${address}`.toLowerCase().includes(needle));
  // Whoever was asked for has a page, contact or not; else it is of the first that is listed.
  const shown = found.find(({ address }) => address === chosen) ?? (chosen === of ? null : found[0]);
  const address = shown?.address ?? chosen;
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-1.5 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">Contacts</h1>
        <span className="text-[13px] text-ink-2">{countText(data.length)}</span>
        <input
          aria-label="Search contacts"
          placeholder="Any part of a name or address"
          value={sought}
          onChange={({ target }) => setSought(target.value)}
          className={`${FIELD} w-56`}
        />
        <CardFiles />
        <Notice testId="notice" className="min-w-0 flex-1 text-[13px]" />
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}
        </p>
      )}
      <div className="grid min-h-0 flex-1 md:grid-cols-[minmax(200px,300px)_minmax(0,1fr)]">
        <div className="flex min-h-0 flex-col border-rule max-md:max-h-72 max-md:border-b md:border-r">
          <form
            className="flex gap-2 px-3.5 py-2"
            onSubmit={async (event) => {
              event.preventDefault();
              const address = fresh.trim();
              if (address === "") return;
              if (await put("POST", "/contacts", { address, name: "" }, `${address} is kept. U takes it back.`)) {
                setFresh("");
                setChosen(address.toLowerCase());
              }
            }}
          >
            <input
              aria-label="Address to keep"
              placeholder="Address to keep"
              value={fresh}
              onChange={({ target }) => setFresh(target.value)}
              className={`${FIELD} min-w-0 flex-1`}
            />
            <button type="submit" className="rounded-sm bg-ink px-3 py-1 text-[13px] text-paper">
              Keep
            </button>
          </form>
          <ul aria-label="All contacts" className="min-h-0 flex-1 overflow-y-auto">
            {data.length === 0 && (
              <li className="px-3.5 py-2 text-[13px] text-ink-2">
                Nobody is kept yet. Whom you write to is offered anyway; the step “Add contact” keeps senders.
              </li>
            )}
            {found.map((one) => (
              <li key={one.address}>
                <button
                  type="button"
                  aria-current={one.address === address}
                  onClick={() => setChosen(one.address)}
                  className={`block w-full px-3.5 py-1 text-left ${one.address === address ? "bg-spruce-soft" : ""}`}
                >
                  <span className="block truncate text-[13.5px] font-semibold">{one.name || one.address}</span>
                  {one.name !== "" && <span className="block truncate text-xs text-ink-2">{one.address}</span>}
                </button>
              </li>
            ))}
          </ul>
          <Groups people={data} onPut={put} />
        </div>
        {address !== null && <Person key={address} address={address} contact={shown ?? null} others={data} />}
      </div>
    </main>
  );
}
