import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { AccountShape, RemoteFolderShape } from "@/core/api";
import { BUTTON } from "../contacts/change";
import { get } from "../state/api";
import { FolderChoice } from "./folder-choice";
import { put } from "./put";

/** Chooses which folders of an account come in; the server is asked which there are. */
export function Folders({ account, onDone }: { readonly account: AccountShape; readonly onDone: () => void }) {
  const { id, name, address } = account;
  const [without, setWithout] = useState<readonly string[]>(account.without);
  const { data, error } = useQuery({
    queryKey: ["accounts", id, "folders"],
    queryFn: () => get<RemoteFolderShape[]>(`/accounts/${id}/folders`),
    retry: false,
  });
  return (
    <div role="group" aria-label={`Folders of ${name || address}`} className="grid max-w-[640px] gap-2">
      {error && (
        <p role="alert" className="rounded-sm bg-amber-soft px-2 py-1">
          {error.message}
        </p>
      )}
      {!data && !error && <p role="status">Asking the server…</p>}
      {data && <FolderChoice folders={data} without={without} onChange={setWithout} />}
      <p className="flex flex-wrap gap-2">
        {data && (
          <button
            type="button"
            className="rounded-sm bg-ink px-3 py-1 text-paper"
            onClick={() =>
              void put(
                "PATCH",
                `/accounts/${id}`,
                { without },
                `Stored. What is here of folders that are left alone stays here.`,
              ).then(onDone)
            }
          >
            Store
          </button>
        )}
        <button type="button" className={BUTTON} onClick={onDone}>
          Leave it
        </button>
      </p>
    </div>
  );
}
