"use client";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { BatchShape } from "@/core/api";
import { textOfIssue } from "@/core/narrow";
import { cut } from "@/core/text";
import { Modal } from "../parts/picker";
import { hoursFor } from "../rules/edits";
import { checkNarrow } from "../state/browse";
import { set } from "../state/store";
import { BatchFields } from "./batch-fields";
import { draftOf, makeBatch, moveBatch, removeBatch, storeBatch, type Draft } from "./batch-store";

const close = () => set({ dialog: null });

/** A batch that is made of what the list shows, or a saved one; what is changed of that is stored at once. */
export function BatchDialog({ batch }: { readonly batch: BatchShape | null }) {
  const router = useRouter();
  const [draft, setDraft] = useState<Draft>(() => draftOf(batch));
  const [problem, setProblem] = useState<string | null>(null);
  const checked = checkNarrow(draft.narrow);
  const wrong = checked.ok ? null : checked.issues.map(textOfIssue).join(" ");
  const store = (change: Partial<Draft>) => batch && void storeBatch(batch, change, setProblem);
  const put = (change: Partial<Draft>, now = false) => {
    setDraft({ ...draft, ...change });
    setProblem(null);
    if (now) store(change);
  };
  return (
    <Modal title={batch ? `Batch ${batch.name}` : "Save the list as a batch"} onClose={close}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (wrong) return;
          if (batch) close();
          else void makeBatch({ ...draft, name: draft.name.trim() }, true, setProblem);
        }}
        className="grid gap-2 p-4 text-[13px]"
      >
        <BatchFields draft={draft} kept={batch && draftOf(batch)} put={put} store={store} />
        <p role="alert" className="min-h-5 text-brick">
          {problem ?? wrong ?? ""}
        </p>
        <div className="flex flex-wrap gap-2">
          {batch ? (
            <>
              <button type="submit" className="rounded-sm bg-ink px-3 py-1.5 text-paper">
                Done
              </button>
              <button
                type="button"
                onClick={() => void moveBatch(batch, -1, setProblem)}
                className="rounded-sm border border-rule px-3 py-1.5"
              >
                Up
              </button>
              <button
                type="button"
                onClick={() => void moveBatch(batch, 1, setProblem)}
                className="rounded-sm border border-rule px-3 py-1.5"
              >
                Down
              </button>
              <button
                type="button"
                onClick={() => void makeBatch({ ...draft, name: `${cut(draft.name, 70)} (copy)` }, false, setProblem)}
                className="rounded-sm border border-rule px-3 py-1.5"
              >
                Duplicate
              </button>
              <button
                type="button"
                disabled={wrong !== null}
                onClick={() => set({ dialog: { kind: "rule", from: { narrow: draft.narrow } } })}
                className="rounded-sm border border-rule px-3 py-1.5"
              >
                A rule for it…
              </button>
              <button
                type="button"
                disabled={wrong !== null}
                onClick={() => void hoursFor(draft.narrow).then(() => router.push("/rules"))}
                className="rounded-sm border border-rule px-3 py-1.5"
              >
                Hours for it
              </button>
              <button
                type="button"
                onClick={() => removeBatch(batch)}
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
