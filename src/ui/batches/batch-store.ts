import type { BatchShape } from "@/core/api";
import { checkNarrow, expressionOf, goToBatch } from "../state/browse";
import { editsOf, inHome } from "../state/keepsakes";
import { set, view } from "../state/store";

/** Making, changing, moving and deleting batches, each taken back by one key. */

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

const batches = inHome("batches");
const ofBatches = editsOf<BatchShape>({
  path: "/batches",
  ...batches,
  // The one that is worked in is shown as it is now, also where it was taken back.
  show: (change) => {
    const { batch: id } = view();
    const shown = () => batches.latest()?.find((one) => one.id === id);
    const before = shown();
    batches.show(change);
    if (id === null || shown() === before) return;
    if (shown()) goToBatch(id);
    else set({ batch: null });
  },
});

/** Says why it could not be stored where the person looks. */
type Trouble = (words: string) => void;

/** Stores a change that can stand; one that cannot waits for the person to go on typing. */
export async function storeBatch(batch: BatchShape, change: Partial<Draft>, trouble: Trouble): Promise<void> {
  if ((change.narrow !== undefined && !checkNarrow(change.narrow).ok) || change.name?.trim() === "") return;
  await ofBatches.change(batch, change, `Changed the batch ${batch.name}`, {}, trouble);
}

export async function makeBatch(draft: Draft, goThere: boolean, trouble: Trouble): Promise<void> {
  const made = await ofBatches.make(draft, `The batch ${draft.name} is in the rack`, trouble);
  if (!made) return;
  set({ dialog: null });
  if (goThere) goToBatch(made.id);
}

export function removeBatch(batch: BatchShape): void {
  set({ dialog: null });
  void ofBatches.remove(batch, `The batch ${batch.name} is gone, its mail is where it was`);
}

export async function moveBatch(batch: BatchShape, by: -1 | 1, trouble: Trouble): Promise<void> {
  const all = view().home?.batches ?? [];
  const at = all.findIndex((one) => one.id === batch.id);
  const position = at + by;
  if (position < 0 || position >= all.length) return;
  const name = `${batch.name} comes ${by < 0 ? "earlier" : "later"}`;
  await ofBatches.change(batch, { position }, name, { position: at }, trouble);
}
