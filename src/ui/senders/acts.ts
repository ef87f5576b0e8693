import type { LeaveAnswer, SenderShape } from "@/core/api";
import { countText, plural } from "../parts/words";
import { write } from "../state/api";
import { reads, senders as sendersRead } from "../state/reads";
import { refreshSettings } from "../state/settings";
import { notify } from "../state/store";

/** What is done about senders themselves, whatever of theirs is here. Each says what came of it, and whether it was done. */

type Some = readonly Pick<SenderShape, "source" | "name" | "address" | "senders" | "aside" | "leaving">[];

const named = (chosen: Some): string => (chosen.length === 1 ? chosen[0]!.name : plural(chosen.length, "sender"));
const sourcesOf = (chosen: Some): string[] => chosen.map(({ source }) => source);

async function done(work: () => Promise<unknown>, said: string, undone: string): Promise<boolean> {
  try {
    await work();
    await refreshSettings();
    void reads.invalidateQueries(sendersRead);
    notify(said);
    return true;
  } catch (problem) {
    notify(problem instanceof Error ? `${undone}: ${problem.message}` : `${undone}.`, "trouble");
    return false;
  }
}

/** What came of leaving, in words. */
function leaveText({ asked, written, pages, none }: LeaveAnswer): string {
  const parts = [
    asked.length > 0 && `${plural(asked.length, "list")} asked to send nothing more`,
    written.length > 0 && `${plural(written.length, "letter")} on its way`,
    pages.length > 0 && `${countText(pages.length)} by ${pages.length === 1 ? "its page" : "their pages"} only`,
    none.length > 0 && `${countText(none.length)} ${none.length === 1 ? "says" : "say"} no way to leave: block instead`,
  ].filter(Boolean);
  return `${parts.join(", ")}.${asked.length + written.length > 0 ? " U takes it back until it has gone." : ""}`;
}

/** @returns what came of it; null where nothing was asked */
export async function leaveSenders(chosen: Some): Promise<LeaveAnswer | null> {
  const open = chosen.filter(({ leaving }) => leaving === null || leaving.state === "refused");
  if (open.length === 0) {
    notify("Nothing is chosen that was not left already.", "trouble");
    return null;
  }
  try {
    const answer = await write<LeaveAnswer>("POST", "/senders/leave", { sources: sourcesOf(open) });
    void reads.invalidateQueries(sendersRead);
    notify(leaveText(answer), answer.asked.length + answer.written.length > 0 ? "plain" : "trouble");
    return answer;
  } catch (problem) {
    notify(problem instanceof Error ? `Nothing was left: ${problem.message}` : "Nothing was left.", "trouble");
    return null;
  }
}

/** @param aside from now on; false for no more, and no offer of it either */
export async function standAside(chosen: Some, aside: boolean): Promise<boolean> {
  if (chosen.length === 0) return false;
  const said = aside
    ? `${named(chosen)}: aside from now on. U takes it back.`
    : `${named(chosen)}: not aside. U takes it back.`;
  const body = { sources: sourcesOf(chosen), aside };
  return done(() => write("POST", "/senders/aside", body), said, "Nothing was put aside");
}

/** Many people write to a list: who blocks it means none of them. */
export async function blockSenders(all: Some): Promise<boolean> {
  const chosen = all.filter(({ senders }) => senders === 1);
  if (chosen.length === 0) {
    if (all.length > 0) notify(`Several people write to ${named(all)}: leave it, or let it stand aside.`, "trouble");
    return false;
  }
  const addresses = chosen.map((one) => one.address);
  const work = () => write("POST", "/senders/block", { addresses });
  const left = all.length - chosen.length;
  const more = left === 0 ? "" : ` ${plural(left, "list")} with several senders left alone.`;
  return done(work, `${named(chosen)}: blocked.${more} U takes it back.`, "Nobody was blocked");
}
