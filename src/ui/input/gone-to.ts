import { dropKeys, holdKeys, letKeysGo } from "./held-keys";

/** A screen that is not there after so long will not be, or is long shown in another way. */
const PATIENCE_MS = 10_000;

let shown: string | null = null;
let patience: ReturnType<typeof setTimeout> | undefined;

/** Another screen is gone to: until it is there, no key is for the one that is left. @param href as the router has it */
export function leaveFor(href: string): void {
  clearTimeout(patience);
  const { pathname } = new URL(href, location.href);
  if (shown === null || pathname === shown) return letKeysGo("screen");
  holdKeys("screen", null);
  patience = setTimeout(() => dropKeys("screen"), PATIENCE_MS);
}

/** A screen is there, with what hears its keys. */
export function arriveAt(path: string): void {
  clearTimeout(patience);
  shown = path;
  letKeysGo("screen");
}
