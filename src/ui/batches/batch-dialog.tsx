"use client";
import { useState } from "react";
import type { BatchShape } from "@/core/api";
import { GROUPINGS, ORDERS } from "@/core/list";
import { textOfIssue } from "@/core/narrow";
import { Modal } from "../parts/picker";
import { write } from "../state/api";
import { checkNarrow, expressionOf, goToBatch } from "../state/browse";
import { inLine, refreshSettings } from "../state/load";
import { notify, set, view } from "../state/store";

const close = () => set({ dialog: null });
const FIELD = "w-full rounded-sm border border-edge bg-paper px-2 py-1";
type Draft = Omit<BatchShape, "id">;

function draftOf(batch: BatchShape | null): Draft {
  if (batch) {
    const { id: _, ...kept } = batch;
    return kept;
  }
  const { place, conditions, order, group } = view();
  return { name: "", narrow: expressionOf(place, conditions), order, group, deck: null };
}

/** A batch that is made of what the list shows, or a saved one; what is changed of that is stored at once. */
export function BatchDialog({ batch }: { readonly batch: BatchShape | null }) {
  const [draft, setDraft] = useState<Draft>(() => draftOf(batch));
  const [problem, setProblem] = useState<string | null>(null);
  const decks = view().decks;
  const checked = checkNarrow(draft.narrow);
  const wrong = checked.ok ? null : checked.issues.map(textOfIssue).join(" ");
  const say = (error: unknown) => setProblem(error instanceof Error ? error.message : "It could not be stored.");
  const store = async (change: Partial<Draft>) => {
    if (!batch || (change.narrow !== undefined && !checkNarrow(change.narrow).ok) || change.name?.trim() === "") return;
    try {
      await inLine(() => write("PATCH", `/batches/${batch.id}`, change));
      await refreshSettings();
      if (view().batch === batch.id) goToBatch(batch.id);
    } catch (error) {
      say(error);
    }
  };
  const put = (change: Partial<Draft>, now = false) => {
    setDraft({ ...draft, ...change });
    setProblem(null);
    if (now) void store(change);
  };
  const make = async (of: Draft, goThere: boolean) => {
    try {
      const made = await write<BatchShape>("POST", "/batches", of);
      await refreshSettings();
      close();
      if (goThere) goToBatch(made.id);
      notify(`The batch ${made.name} is in the rack.`);
    } catch (error) {
      say(error);
    }
  };
  const remove = async () => {
    if (!batch) return;
    const kept = draftOf(batch);
    try {
      await write("DELETE", `/batches/${batch.id}`);
      if (view().batch === batch.id) set({ batch: null });
      await refreshSettings();
      close();
      notify(`The batch ${batch.name} is gone; its mail is where it was.`, "plain", {
        name: "Bring it back",
        act: () => void make(kept, false),
      });
    } catch (error) {
      say(error);
    }
  };
  const move = (by: -1 | 1) => {
    const all = view().home?.batches ?? [];
    const at = all.findIndex((one) => one.id === batch?.id);
    const position = Math.max(0, Math.min(all.length - 1, at + by));
    if (batch) void inLine(() => write("PATCH", `/batches/${batch.id}`, { position })).then(refreshSettings, say);
  };
  return (
    <Modal title={batch ? `Batch ${batch.name}` : "Save the list as a batch"} onClose={close}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (wrong) return;
          if (batch) close();
          else void make({ ...draft, name: draft.name.trim() }, true);
        }}
        className="grid gap-2 p-4 text-[13px]"
      >
        <label className="grid gap-1">
          <span className="text-ink-2">Name</span>
          <input
            autoFocus
            value={draft.name}
            onChange={(event) => put({ name: event.target.value })}
            onBlur={() => draft.name !== batch?.name && void store({ name: draft.name.trim() })}
            className={FIELD}
          />
        </label>
        <label className="grid gap-1">
          <span className="text-ink-2">Narrowing</span>
          <textarea
            value={draft.narrow}
            rows={2}
            onChange={(event) => put({ narrow: event.target.value.replace(/\n/g, " ") })}
            onBlur={() => draft.narrow !== batch?.narrow && void store({ narrow: draft.narrow })}
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
        <p role="alert" className="min-h-5 text-brick">
          {problem ?? wrong ?? ""}
        </p>
        <div className="flex flex-wrap gap-2">
          {batch ? (
            <>
              <button type="submit" className="rounded-sm bg-ink px-3 py-1.5 text-paper">
                Done
              </button>
              <button type="button" onClick={() => move(-1)} className="rounded-sm border border-rule px-3 py-1.5">
                Up
              </button>
              <button type="button" onClick={() => move(1)} className="rounded-sm border border-rule px-3 py-1.5">
                Down
              </button>
              <button
                type="button"
                onClick={() => void make({ ...draft, name: `${draft.name.slice(0, 70)} (copy)` }, false)}
                className="rounded-sm border border-rule px-3 py-1.5"
              >
                Duplicate
              </button>
              <button
                type="button"
                onClick={() => void remove()}
                className="ml-auto rounded-sm border border-brick px-3 py-1.5"
              >
                Delete
              </button>
            </>
          ) : (
            <button
              type="submit"
              disabled={draft.name.trim() === "" || wrong !== null}
              className="rounded-sm bg-ink px-3 py-1.5 text-paper disabled:opacity-60"
            >
              Save
            </button>
          )}
        </div>
      </form>
    </Modal>
  );
}
