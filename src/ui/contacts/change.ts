import { change } from "../places/act";
import { contacts, groups, reads } from "../state/reads";

export const FIELD = "rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";
export const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";

export const lookAgain = () => Promise.all([reads.invalidateQueries(contacts), reads.invalidateQueries(groups)]);

/** Changes a contact or a group, and reads them again. @returns whether it was done */
export async function put(...of: Parameters<typeof change>): Promise<boolean> {
  const done = await change(...of);
  await lookAgain();
  return done;
}
