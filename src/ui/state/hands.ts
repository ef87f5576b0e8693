import type { EntryShape } from "@/core/api";
import { get } from "./api";
import { showLedger } from "./decide";
import { LEDGER_PATH, listedAnew } from "./entries";
import { reads } from "./reads";
import { notify, view } from "./store";
import { inLine, writes } from "./writes";

/**
 * What is written by hand beside decisions on mail, to tasks and calendars say, is an entry of the ledger that only
 * the server makes. Before something is taken back, the window knows of all of them: or else a key pressed right
 * after such a write would take back what was done before it.
 */

let unknown = false;
let learning: Promise<void> | null = null;

/** Sends a write that makes an entry, after those before it. */
export async function byHand<T>(send: () => Promise<T>): Promise<T> {
  unknown = true;
  return inLine(send);
}

/**
 * The same for what is shown already: it is said at once, and read anew behind it.
 * @param queryKey of what the write changes @returns whether it was stored; where not, why is said
 */
export async function storeByHand(
  send: () => Promise<unknown>,
  said: string,
  queryKey: readonly unknown[],
): Promise<boolean> {
  notify(`${said} U takes it back.`);
  try {
    await byHand(send);
    return true;
  } catch (error) {
    notify(error instanceof Error ? `Not stored: ${error.message}` : "Not stored.", "trouble");
    return false;
  } finally {
    void reads.invalidateQueries({ queryKey });
  }
}

async function learn(): Promise<void> {
  do {
    unknown = false;
    await writes.through();
    try {
      const before = view().arrivals;
      const read = await get<EntryShape[]>(LEDGER_PATH);
      // What was written while it was read is not in it.
      if (before === view().arrivals) showLedger(listedAnew(view().confirmed, read));
      else unknown = true;
    } catch {
      // A server that is away takes nothing back either: what is known is what there is.
    }
  } while (unknown);
}

/** Until the window knows of every entry that was made by hand; null where it does. */
export function handsKnown(): Promise<void> | null {
  if (learning) return learning;
  if (!unknown) return null;
  learning = learn().finally(() => {
    learning = null;
  });
  return learning;
}
