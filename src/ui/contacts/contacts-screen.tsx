"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { ContactShape } from "@/core/api";
import { writeEquals } from "@/core/narrow";
import { Notice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { countText, dateText, plural } from "../parts/words";
import { change } from "../places/act";
import { goToPlace } from "../state/browse";
import { composeNew } from "../state/compose";
import { takeBack } from "../state/decide";
import { contacts, groups, reads } from "../state/reads";
import { useView } from "../state/store";
import { Groups } from "./groups";

const FIELD = "rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";
const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";

const look = () => Promise.all([reads.invalidateQueries(contacts), reads.invalidateQueries(groups)]);
const put = async (...of: Parameters<typeof change>) => {
  const done = await change(...of);
  await look();
  return done;
};
const pathOf = (address: string) => `/contacts/${encodeURIComponent(address)}`;

/** Somebody: what is known of them, their mail, and what can be done. */
function Person({ contact, others }: { readonly contact: ContactShape; readonly others: readonly ContactShape[] }) {
  const router = useRouter();
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const { address, name, note, times, last } = contact;
  const show = (narrow: string) => {
    goToPlace(narrow);
    router.push("/");
  };
  const from = writeEquals("from", address);
  const to = writeEquals("to", address);
  return (
    <section aria-label={name || address} className="grid content-start gap-3 overflow-y-auto px-3.5 py-3">
      <h2 className="text-[17px] font-semibold">{name || address}</h2>
      <p className="text-[13px] text-ink-2">
        {address}
        {times > 0
          ? `, written to ${plural(times, "time")}, last ${last ? dateText(last, zone, new Date()) : ""}`
          : ", never written to"}
      </p>
      <p className="flex flex-wrap gap-2">
        <button
          type="button"
          className={BUTTON}
          onClick={() => {
            void composeNew({ to: [{ name, address }] });
            router.push("/");
          }}
        >
          Write
        </button>
        {(
          [
            ["All mail with them", `${from} | ${to}`],
            ["From them", from],
            ["To them", to],
            ["Owed to them", `${from} & owed`],
            ["Awaited from them", `(${from} | ${to}) & awaited`],
          ] as const
        ).map(([text, narrow]) => (
          <button key={text} type="button" className={BUTTON} onClick={() => show(narrow)}>
            {text}
          </button>
        ))}
      </p>
      <form
        key={`${address} ${name} ${note}`}
        className="grid max-w-xl gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          const data = new FormData(event.currentTarget);
          const body = { name: String(data.get("name")), note: String(data.get("note")) };
          void put("PATCH", pathOf(address), body, "Stored. U takes it back.");
        }}
      >
        <input name="name" aria-label="Name" placeholder="name" defaultValue={name} maxLength={200} className={FIELD} />
        <textarea
          name="note"
          aria-label="Note"
          placeholder="note"
          defaultValue={note}
          rows={4}
          maxLength={5000}
          className={FIELD}
        />
        <span className="flex flex-wrap gap-2">
          <button type="submit" className="rounded-sm bg-ink px-3 py-1 text-[13px] text-paper">
            Store
          </button>
          <select
            aria-label="Merge into"
            value=""
            onChange={({ target }) =>
              target.value !== "" &&
              void put(
                "PATCH",
                pathOf(address),
                { into: target.value },
                `Merged into ${target.value}. U takes it back.`,
              )
            }
            className={FIELD}
          >
            <option value="">merge into…</option>
            {others.map((one) => (
              <option key={one.address} value={one.address}>
                {one.name || one.address}
              </option>
            ))}
          </select>
          <button
            type="button"
            className={BUTTON}
            onClick={() =>
              put("DELETE", pathOf(address), undefined, `${name || address} is no contact any more. U takes it back.`)
            }
          >
            Remove
          </button>
        </span>
      </form>
    </section>
  );
}

/** People one writes to: kept by hand or by macros. */
export function ContactsScreen() {
  const { data = [], error } = useQuery(contacts);
  const [sought, setSought] = useState("");
  const [chosen, setChosen] = useState<string | null>(null);
  const [fresh, setFresh] = useState("");
  useScreenKeys({ undo: () => takeBack("undo"), redo: () => takeBack("redo") });
  const needle = sought.trim().toLowerCase();
  const found = data.filter(({ name, address }) => `${name} ${address}`.toLowerCase().includes(needle));
  const contact = found.find(({ address }) => address === chosen) ?? found[0] ?? null;
  return (
    <main id="main" className="flex h-full flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-3 border-b border-rule px-3.5">
        <h1 className="text-[15px] font-bold">Contacts</h1>
        <span className="text-[13px] text-ink-2">{countText(data.length)}</span>
        <input
          aria-label="Search contacts"
          placeholder="Any part of a name or address"
          value={sought}
          onChange={({ target }) => setSought(target.value)}
          className={`${FIELD} w-56`}
        />
        <Notice testId="notice" className="min-w-0 flex-1 text-[13px]" />
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}
        </p>
      )}
      <div className="grid min-h-0 flex-1 md:grid-cols-[minmax(200px,300px)_minmax(0,1fr)]">
        <div className="flex min-h-0 flex-col border-r border-rule max-md:max-h-72">
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
                  aria-current={one === contact}
                  onClick={() => setChosen(one.address)}
                  className={`block w-full px-3.5 py-1 text-left ${one === contact ? "bg-spruce-soft" : ""}`}
                >
                  <span className="block truncate text-[13.5px] font-semibold">{one.name || one.address}</span>
                  {one.name !== "" && <span className="block truncate text-xs text-ink-2">{one.address}</span>}
                </button>
              </li>
            ))}
          </ul>
          <Groups people={data} onPut={put} />
        </div>
        {contact && <Person contact={contact} others={data.filter((one) => one !== contact)} />}
      </div>
    </main>
  );
}
