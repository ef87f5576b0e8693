import type { BatchShape } from "@/core/api";
import { write } from "../state/api";
import { checkNarrow, expressionOf, goToBatch } from "../state/browse";
import { refreshSettings } from "../state/settings";
import { inLine } from "../state/writes";
import { notify, set, view } from "../state/store";

/** Making, changing, moving and deleting batches. Each throws with words for the person where it cannot be done. */

export type Draft = Omit<BatchShape, "id">;

/** A batch as it can be changed; where there is none yet, what the list shows. */
export function draftOf(batch: BatchShape | null): Draft {
  if (batch) {
    const { id: _, ...kept } = batch;
    return kept;
  }
  const { place, conditions, order, group } = view();
  return { name: "", narrow: expressionOf(place, conditions), order, group, deck: null };
}

/** Stores a change that can stand; one that cannot waits for the person to go on typing. */
export async function storeBatch({ id }: BatchShape, change: Partial<Draft>): Promise<void> {
  if ((change.narrow !== undefined && !checkNarrow(change.narrow).ok) || change.name?.trim() === "") return;
  await inLine(() => write("PATCH", `/batches/${id}`, change));
  await refreshSettings();
  if (view().batch === id) goToBatch(id);
}

export async function makeBatch(draft: Draft, goThere: boolean): Promise<void> {
  const made = await write<BatchShape>("POST", "/batches", draft);
  await refreshSettings();
  set({ dialog: null });
  if (goThere) goToBatch(made.id);
  notify(`The batch ${made.name} is in the rack.`);
}

export async function removeBatch(batch: BatchShape): Promise<void> {
  await write("DELETE", `/batches/${batch.id}`);
  if (view().batch === batch.id) set({ batch: null });
  await refreshSettings();
  set({ dialog: null });
  notify(`The batch ${batch.name} is gone; its mail is where it was.`, "plain", {
    name: "Bring it back",
    act: () =>
      void makeBatch(draftOf(batch), false).catch((error: Error) =>
        notify(`It could not be brought back: ${error.message}`, "trouble"),
      ),
  });
}

export async function moveBatch({ id }: BatchShape, by: -1 | 1): Promise<void> {
  const all = view().home?.batches ?? [];
  const at = all.findIndex((one) => one.id === id);
  const position = Math.max(0, Math.min(all.length - 1, at + by));
  await inLine(() => write("PATCH", `/batches/${id}`, { position }));
  await refreshSettings();
}
