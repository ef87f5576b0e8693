"use client";
import { GROUPINGS, ORDERS } from "@/core/list";
import { useView } from "../state/store";
import type { Draft } from "./batch-store";

const FIELD = "w-full rounded-sm border border-edge bg-paper px-2 py-1";

interface Props {
  readonly draft: Draft;
  /** The batch as it was saved; null for one that is being made. */
  readonly kept: Draft | null;
  /** @param now whether it is stored at once, where there is something to store it in */
  readonly put: (change: Partial<Draft>, now?: boolean) => void;
  readonly store: (change: Partial<Draft>) => void;
}

/** What a batch is made of. */
export function BatchFields({ draft, kept, put, store }: Props) {
  const decks = useView((v) => v.decks);
  return (
    <>
      <label className="grid gap-1">
        <span className="text-ink-2">Name</span>
        <input
          autoFocus
          value={draft.name}
          onChange={(event) => put({ name: event.target.value })}
          onBlur={() => draft.name !== kept?.name && store({ name: draft.name.trim() })}
          className={FIELD}
        />
      </label>
      <label className="grid gap-1">
        <span className="text-ink-2">Narrowing</span>
        <textarea
          value={draft.narrow}
          rows={2}
          onChange={(event) => put({ narrow: event.target.value.replace(/\n/g, " ") })}
          onBlur={() => draft.narrow !== kept?.narrow && store({ narrow: draft.narrow })}
          className={`${FIELD} font-mono text-xs`}
        />
      </label>
      <div className="grid grid-cols-3 gap-3">
        <label className="grid gap-1">
          <span className="text-ink-2">Order</span>
          <select
            value={draft.order}
            onChange={(event) => put({ order: event.target.value as Draft["order"] }, true)}
            className={FIELD}
          >
            {ORDERS.map((order) => (
              <option key={order}>{order}</option>
            ))}
          </select>
        </label>
        <label className="grid gap-1">
          <span className="text-ink-2">Groups</span>
          <select
            value={draft.group}
            onChange={(event) => put({ group: event.target.value as Draft["group"] }, true)}
            className={FIELD}
          >
            {GROUPINGS.map((group) => (
              <option key={group}>{group}</option>
            ))}
          </select>
        </label>
        <label className="grid gap-1">
          <span className="text-ink-2">Deck</span>
          <select
            value={draft.deck ?? ""}
            onChange={(event) =>
              put({ deck: event.target.value === "" ? null : (Number(event.target.value) as Draft["deck"]) }, true)
            }
            className={FIELD}
          >
            <option value="">the one that is up</option>
            {decks.map((deck) => (
              <option key={deck.number} value={deck.number}>
                {deck.number}, {deck.name}
              </option>
            ))}
          </select>
        </label>
      </div>
    </>
  );
}
