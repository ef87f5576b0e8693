"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import type { ContactShape } from "@/core/api";
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

const pathOf = (address: string) => `/contacts/${encodeURIComponent(address)}`;

/** Somebody: what is known of them, their mail, and what can be done. */
export function Person({ address, contact, others }: Props) {
  const router = useRouter();
  const { data } = useQuery(between(address));
  const name = contact?.name || (data?.name ?? "");
  return (
    <section aria-label={name || address} className="grid content-start gap-3 overflow-y-auto px-3.5 py-3">
      <h2 className="text-[17px] font-semibold">{name || address}</h2>
      <p className="flex flex-wrap items-center gap-2 text-[13px] text-ink-2">
        <span>{[name !== "" && address, contact === null && "no contact"].filter(Boolean).join(", ")}</span>
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

/** What is kept of a contact. */
function Known({ contact, others }: { readonly contact: ContactShape; readonly others: readonly ContactShape[] }) {
  const { address, name, note } = contact;
  return (
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
  );
}
