"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { IdentityShape } from "@/core/api";
import { identities } from "../state/reads";
import { change } from "./act";

const FIELD = "min-w-0 rounded-sm border border-edge bg-sheet px-2 py-1";
const BUTTON = "rounded-sm border border-rule bg-sheet px-1.5 py-0.5 text-xs";

function One({ identity, isFirst }: { readonly identity: IdentityShape; readonly isFirst: boolean }) {
  const { id, name, address, signature } = identity;
  const [open, setOpen] = useState(false);
  const put = (body: object, done: string) => change("PATCH", `/identities/${id}`, body, done);
  return (
    <li className="border-b border-rule-soft py-1">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1 truncate">
          {name} <span className="text-ink-2">{address}</span>
        </span>
        {isFirst ? (
          <span className="text-xs text-ink-2">the usual one</span>
        ) : (
          <button
            type="button"
            className={BUTTON}
            onClick={() => put({ position: 0 }, `${address} is the usual one now.`)}
          >
            make usual
          </button>
        )}
        <button type="button" aria-expanded={open} className={BUTTON} onClick={() => setOpen(!open)}>
          change
        </button>
      </div>
      {open && (
        <form
          className="mt-1 grid gap-1.5"
          onSubmit={(event) => {
            event.preventDefault();
            const data = new FormData(event.currentTarget);
            const body = Object.fromEntries(
              ["name", "address", "signature"].map((key) => [key, String(data.get(key))]),
            );
            void put(body, `${address} is changed.`).then((done) => done && setOpen(false));
          }}
        >
          <input name="name" aria-label="Name" defaultValue={name} className={FIELD} />
          <input name="address" aria-label="Address" defaultValue={address} className={FIELD} />
          <textarea
            name="signature"
            aria-label="Signature"
            rows={3}
            defaultValue={signature}
            placeholder="Signature"
            className={FIELD}
          />
          <span className="flex gap-2">
            <button type="submit" className="rounded-sm bg-ink px-3 py-1 text-paper">
              Store
            </button>
            <button
              type="button"
              className={BUTTON}
              onClick={() =>
                change("DELETE", `/identities/${id}`, undefined, `Nothing comes from ${address} any more.`)
              }
            >
              remove
            </button>
          </span>
        </form>
      )}
    </li>
  );
}

/** Whom the person writes as, each with a signature. */
export function Identities() {
  const { data = [] } = useQuery(identities);
  const [fresh, setFresh] = useState("");
  return (
    <section aria-labelledby="identities-title" className="text-[13px]">
      <h2 id="identities-title" className="mb-1 font-bold">
        Written as
      </h2>
      <ul>
        {data.map((identity, i) => (
          <One key={identity.id} identity={identity} isFirst={i === 0} />
        ))}
      </ul>
      <form
        className="mt-2 flex gap-2"
        onSubmit={async (event) => {
          event.preventDefault();
          const body = { name: data[0]?.name ?? "", address: fresh.trim() };
          if (await change("POST", "/identities", body, `${fresh.trim()} can be written from.`)) setFresh("");
        }}
      >
        <input
          aria-label="Another address of yours"
          placeholder="Another address of yours"
          value={fresh}
          onChange={({ target }) => setFresh(target.value)}
          className={`${FIELD} flex-1`}
        />
        <button type="submit" className="rounded-sm bg-ink px-3 py-1 text-paper">
          Add
        </button>
      </form>
    </section>
  );
}
