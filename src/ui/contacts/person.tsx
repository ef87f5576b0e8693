"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import type { ContactShape } from "@/core/api";
import { TextEdit } from "../parts/text-edit";
import { composeNew } from "../state/compose";
import { between } from "../state/reads";
import { Between } from "./between";
import { BUTTON, FIELD, put } from "./change";

interface Props {
  readonly address: string;
  /** null for somebody who is not kept. */
  readonly contact: ContactShape | null;
  readonly others: readonly ContactShape[];
}

/** The id of the field with a contact's name, for the key that leads there. */
export const NAME_FIELD = "contact-name";

const pathOf = (address: string) => `/contacts/${encodeURIComponent(address)}`;

export const removeContact = ({ address, name }: ContactShape): Promise<boolean> =>
  put("DELETE", pathOf(address), undefined, `${name || address} is no contact any more. U takes it back.`);

/** Somebody: what is known of them, their mail, and what can be done. */
export function Person({ address, contact, others }: Props) {
  const router = useRouter();
  const { data } = useQuery(between(address));
  const name = contact?.name || (data?.name ?? "");
  return (
    <section aria-label={name || address} className="grid content-start gap-3 overflow-y-auto px-3.5 py-3">
      <h2 className="text-[17px] font-semibold">{name || address}</h2>
      <p className="flex flex-wrap items-center gap-2 text-[13px] text-ink-2">
        <span className="empty:hidden">
          {[name !== "" && address, contact === null && "no contact"].filter(Boolean).join(", ")}
        </span>
        <button
          type="button"
          className={`${BUTTON} text-ink`}
          onClick={() => {
            void composeNew({ to: [{ name, address }] });
            router.push("/");
          }}
        >
          Write
        </button>
        {contact === null && (
          <button
            type="button"
            className={`${BUTTON} text-ink`}
            onClick={() => put("POST", "/contacts", { address, name }, `${name || address} is kept. U takes it back.`)}
          >
            Keep as a contact
          </button>
        )}
      </p>
      <Between address={address} />
      {contact && <Known contact={contact} others={others.filter((one) => one !== contact)} />}
    </section>
  );
}

/** What is kept of a contact, stored as it is left. */
function Known({ contact, others }: { readonly contact: ContactShape; readonly others: readonly ContactShape[] }) {
  const { address, name, note } = contact;
  const change = (body: object) => put("PATCH", pathOf(address), body, "Stored. U takes it back.");
  return (
    <div className="grid max-w-xl gap-2">
      <TextEdit
        id={NAME_FIELD}
        label="Name"
        empty="name"
        value={name}
        maxLength={200}
        onChange={(text) => change({ name: text })}
      />
      <TextEdit
        label="Note"
        empty="note"
        lines={4}
        value={note}
        maxLength={5000}
        onChange={(text) => change({ note: text })}
      />
      <span className="flex flex-wrap gap-2">
        <select
          aria-label="Merge into"
          value=""
          onChange={({ target }) =>
            target.value !== "" &&
            void put("PATCH", pathOf(address), { into: target.value }, `Merged into ${target.value}. U takes it back.`)
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
        <button type="button" className={BUTTON} onClick={() => void removeContact(contact)}>
          Remove
        </button>
      </span>
    </div>
  );
}
