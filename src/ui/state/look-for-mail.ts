import type { AccountShape } from "@/core/api";
import { plural } from "../parts/words";
import { get, write } from "./api";
import { notify } from "./store";

/** Looking for new mail now, at every account with a server, and saying what came. */

const LOOK_EVERY_MS = 400;
/** A server that has not answered by then is left to itself: what it brings is told as it comes. */
const LONGEST_MS = 20_000;

const connected = (all: readonly AccountShape[]): AccountShape[] =>
  all.filter(({ kind, isPaused }) => kind === "internet" && !isPaused);
const messagesOf = (all: readonly AccountShape[]): number => all.reduce((sum, { messages }) => sum + messages, 0);
const isDone = ({ looks, trouble }: AccountShape): boolean => trouble !== null || !looks;

function told(before: readonly AccountShape[], after: readonly AccountShape[]): void {
  const troubled = after.find(({ trouble }) => trouble !== null);
  const came = Math.max(0, messagesOf(after) - messagesOf(before));
  const what = came === 0 ? "Looked for mail: nothing new." : `Looked for mail: ${plural(came, "new message")}.`;
  if (troubled) return notify(`${troubled.name || troubled.address}: ${troubled.trouble}`, "trouble");
  notify(what);
}

let isLooking = false;

export async function lookForMail(): Promise<void> {
  if (isLooking) return;
  isLooking = true;
  try {
    const before = connected(await write<AccountShape[]>("POST", "/accounts/look"));
    if (before.length === 0)
      return notify("No account with a mail server is connected yet. Press ; and choose Accounts to connect one.");
    const began = performance.now();
    notify("Looking for new mail…");
    for (;;) {
      await new Promise<void>((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
      const now = connected(await get<AccountShape[]>("/accounts"));
      if (now.every(isDone)) return told(before, now);
      if (performance.now() - began > LONGEST_MS)
        return notify("The mail servers take their time: what they bring comes in by itself.");
    }
  } catch (error) {
    notify(error instanceof Error ? error.message : "The server could not be asked. Try again.", "trouble");
  } finally {
    isLooking = false;
  }
}
