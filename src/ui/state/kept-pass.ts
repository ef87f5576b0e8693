import type { Pass } from "./store";
import { view } from "./store";

/**
 * The pass that is under way, kept in the browser beside what the server notes of it: without a connection a window
 * goes on with it all the same, also with one that the server has not heard of.
 */
interface Kept extends Omit<Pass, "queue" | "skipped"> {
  readonly queue: readonly number[];
  readonly skipped: readonly number[];
  /** Whether the server knows it. */
  readonly isMade: boolean;
}

const keyOf = (): string => `tachyne-pass-${view().home?.person.token ?? ""}`;

/** @param pass null for none */
export function keepPass(pass: Pass | null, isMade: boolean): void {
  try {
    if (pass === null) return localStorage.removeItem(keyOf());
    const kept: Kept = { ...pass, queue: [...pass.queue], skipped: [...pass.skipped], isMade };
    localStorage.setItem(keyOf(), JSON.stringify(kept));
  } catch {
    // No room, or a browser that keeps nothing: without a connection a new window begins anew.
  }
}

/** @returns the pass of that id as it was kept; null where it was not */
export function keptPass(id: string): { readonly pass: Pass; readonly isMade: boolean } | null {
  try {
    const kept = JSON.parse(localStorage.getItem(keyOf()) ?? "null") as Kept | null;
    if (kept?.id !== id) return null;
    const { isMade, ...pass } = kept;
    return { pass: { ...pass, queue: new Set(kept.queue), skipped: new Set(kept.skipped) }, isMade };
  } catch {
    return null;
  }
}
