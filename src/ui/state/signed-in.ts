import type { SignInShape } from "@/core/api";

/** Whether somebody is signed in, and where they go where nobody is. */

export const SIGN_IN = "/sign-in";

/** Where they go on: this app's own pages only. */
const OWN_PAGE = /^\/([a-z]+(\/\d+)?)?$/;

/** The page that was meant before. @param search of the address */
export function pageAfter(search: string): string {
  const to = new URLSearchParams(search).get("to") ?? "/";
  return OWN_PAGE.test(to) && to !== SIGN_IN ? to : "/";
}

let isLeaving = false;
/** Whoever leaves goes there by themselves, once all is emptied: what other requests are answered says nothing. */
export function setLeaving(leaving: boolean): void {
  isLeaving = leaving;
}

/** The session is over, or there was none. What is decided and written stays for when they are back. */
export function toSignIn(): void {
  // A worker has no page; its window finds out by itself.
  if (isLeaving || typeof document === "undefined") return;
  const { pathname } = location;
  if (pathname !== SIGN_IN) location.assign(pathname === "/" ? SIGN_IN : `${SIGN_IN}?to=${pathname}`);
}

/** A stream that the server ended may have been ended with its session. */
export async function lookSignedIn(read: () => Promise<SignInShape>): Promise<void> {
  const { person } = await read().catch(() => ({ person: undefined }));
  if (person === null) toSignIn();
}
