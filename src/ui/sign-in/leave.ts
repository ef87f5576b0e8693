import { Away, write } from "../state/api";
import { emptyBrowser } from "../state/empty-browser";
import { KeptDecisions, KeptLetters } from "../state/kept";
import { setLeaving, SIGN_IN } from "../state/signed-in";
import { notify, view } from "../state/store";
import { writes } from "../state/writes";

/** So long what is on its way may take to be stored. */
const PATIENCE_MS = 10_000;
const LOOK_EVERY_MS = 100;

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** Whether the server has all that was decided and written, in this window and in others, within the patience. */
async function isAllStored(): Promise<boolean> {
  const { token } = view().home!.person;
  const kept = [new KeptDecisions(token), new KeptLetters(token)];
  const hasMore = async () => {
    if (view().waiting + view().lettersWaiting + view().aside.length > 0) return true;
    return (await Promise.all(kept.map((one) => one.hasAny()))).includes(true);
  };
  await Promise.race([writes.through(), pause(PATIENCE_MS)]);
  for (const began = Date.now(); await hasMore(); await pause(LOOK_EVERY_MS))
    if (Date.now() - began > PATIENCE_MS) return false;
  return true;
}

/** Signs out here and empties what the browser keeps; not before all that was decided is stored. */
export async function signOut(): Promise<void> {
  if (!(await isAllStored()))
    return notify(
      "Not signed out: something you decided or wrote is not stored yet, here or in another window. Wait for the server, or give up what was not done.",
      "trouble",
    );
  setLeaving(true);
  try {
    await write("DELETE", SIGN_IN);
  } catch (error) {
    setLeaving(false);
    const why = error instanceof Away ? "the server does not answer" : (error as Error).message;
    return notify(`Not signed out: ${why}.`, "trouble");
  }
  await emptyBrowser();
  location.assign(SIGN_IN);
}
