"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { IdentityShape } from "@/core/api";
import { TextEdit } from "../parts/text-edit";
import { editsOf, inQuery } from "../state/keepsakes";
import { identities } from "../state/reads";

const FIELD = "min-w-0 rounded-sm border border-edge bg-sheet px-2 py-1";
const BUTTON = "rounded-sm border border-rule bg-sheet px-1.5 py-0.5 text-xs";

const ofIdentities = editsOf<IdentityShape>({ path: "/identities", ...inQuery(identities.queryKey) });

function One({ identity, at }: { readonly identity: IdentityShape; readonly at: number }) {
  const { name, address, signature } = identity;
  const [open, setOpen] = useState(false);
  const change = (fields: object) => ofIdentities.change(identity, fields, `Changed ${address}`);
  return (
    <li className="border-b border-rule-soft py-1">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1 truncate">
          {name} <span className="text-ink-2">{address}</span>
        </span>
        {at === 0 ? (
          <span className="text-xs text-ink-2">the usual one</span>
        ) : (
          <button
            type="button"
            className={BUTTON}
            onClick={() =>
              void ofIdentities.change(identity, { position: 0 }, `${address} is the usual one now`, { position: at })
            }
          >
            make usual
          </button>
        )}
        <button type="button" aria-expanded={open} className={BUTTON} onClick={() => setOpen(!open)}>
          change
        </button>
      </div>
      {open && (
        <div className="mt-1 grid gap-1.5">
          <TextEdit label="Name" empty="name" value={name} onChange={(text) => change({ name: text })} />
          <TextEdit label="Address" framed value={address} onChange={(text) => change({ address: text })} />
          <TextEdit
            label="Signature"
            empty="Signature"
            lines={3}
            value={signature}
            onChange={(text) => change({ signature: text })}
          />
          <button
            type="button"
            className={`${BUTTON} justify-self-start`}
            onClick={() => void ofIdentities.remove(identity, `Nothing comes from ${address} any more`)}
          >
            remove
          </button>
        </div>
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
          <One key={identity.id} identity={identity} at={i} />
        ))}
      </ul>
      <form
        className="mt-2 flex gap-2"
        onSubmit={async (event) => {
          event.preventDefault();
          const one = { name: data[0]?.name ?? "", address: fresh.trim() };
          if (await ofIdentities.make(one, `${one.address} can be written from`))
            setFresh((now) => (now.trim() === one.address ? "" : now));
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
