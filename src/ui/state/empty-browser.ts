import { THEME_KEY } from "../rack/theme-script";
import { endAnswers } from "./kept-answers";
import { endKeeping } from "./keep-up";

/** What was decided or written and has not gone out yet (see kept.ts): it is for when its person is back. */
const UNSENT = / left /;

/** Empties what the browser keeps of somebody: texts, the list, places, what was narrowed by. How bright it is stays. */
export async function emptyBrowser(): Promise<void> {
  await Promise.all([endAnswers(), endKeeping()]);
  for (const key of Object.keys(localStorage)) if (key !== THEME_KEY && !UNSENT.test(key)) localStorage.removeItem(key);
  sessionStorage.clear();
}
