"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { IdentityShape } from "@/core/api";
import { AddLine } from "../parts/add-line";
import { TextEdit } from "../parts/text-edit";
import { editsOf, inQuery } from "../state/keepsakes";
import { identities } from "../state/reads";

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
      <AddLine
        label="Another address of yours"
        verb="Add"
        onAdd={async (address) => {
          const one = { name: data[0]?.name ?? "", address };
          return (await ofIdentities.make(one, `${address} can be written from`)) !== null;
        }}
        className="mt-2"
      />
    </section>
  );
}
