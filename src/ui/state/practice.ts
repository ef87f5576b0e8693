import type { PracticeShape } from "@/core/api";
import { write } from "./api";
import { goToPlace } from "./browse";
import { placeOf } from "./places";
import { refreshSettings } from "./settings";
import { mailbox, notify, view } from "./store";

/** Practising: letters of nobody's in a folder of their own, on which nothing can go wrong. */
const FOLDER = "Practice";

/** The place of the practice letters; null while they are not there. */
export function practicePlace(): string | null {
  const folder = view().directory.folders.find(({ path }) => path === FOLDER);
  return folder ? placeOf(folder) : null;
}

const LOOK_MS = 300;
/** An import of twelve letters takes a moment; on a busy machine some. */
const MOST_LOOKS = 200;

const isThere = (): boolean => {
  const folder = view().directory.folders.find(({ path }) => path === FOLDER);
  return folder !== undefined && mailbox.columns.folder.indexOf(folder.id) >= 0;
};

/** Goes to the practice letters; lets them come first, where they are not there yet. */
export async function practise(): Promise<void> {
  try {
    notify("Practice letters are on their way…");
    await write<PracticeShape>("POST", "/practice");
    for (let look = 0; look < MOST_LOOKS && !isThere(); look++) {
      await refreshSettings();
      await new Promise<void>((resolve) => setTimeout(resolve, LOOK_MS));
    }
    const place = practicePlace();
    if (place === null) return notify("The practice letters have not come yet. Press the key again.", "trouble");
    goToPlace(place);
    notify("These letters are nobody's: nothing you do here can go wrong.");
  } catch (error) {
    notify(error instanceof Error ? error.message : "Practising could not be begun.", "trouble");
  }
}

/** Takes the practice letters away, and offers them no more. */
export async function endPractice(): Promise<void> {
  const { place, home, link } = view();
  if (home?.settings.practice?.over) return notify("Practising is over. F9 brings new practice letters.");
  if (link === "away") return notify("The server does not answer: end practising once it does.", "trouble");
  try {
    if (place === practicePlace()) goToPlace(placeOf({ path: "Inbox", role: "inbox" }));
    // What was decided about them is done first.
    while (view().waiting > 0) await new Promise<void>((resolve) => setTimeout(resolve, LOOK_MS));
    await write("DELETE", "/practice");
    await refreshSettings();
    notify("Practising is over, and the practice letters are gone.");
  } catch (error) {
    notify(error instanceof Error ? error.message : "It could not be ended.", "trouble");
  }
}

export interface PracticeStep {
  readonly text: string;
  readonly isDone: boolean;
}

/** What there is to try, and what of it has been done since practising was begun. */
export function practiceSteps(practice: PracticeShape): readonly PracticeStep[] {
  const { ledger, macros, decks, recording } = view();
  const since = Date.parse(practice.begun);
  const own = ledger.filter(({ at, actor, cause }) => actor === "person" && cause === null && Date.parse(at) >= since);
  const made = macros.filter(({ id }) => id > practice.macro);
  const bound = (macro: number): boolean =>
    decks.some(({ pads, extra }) => [...pads, ...extra].some((one) => one.macro === macro));
  return [
    { text: "decide one: F archives it", isDone: own.some(({ kind }) => kind === "run") },
    { text: "take it back: U", isDone: own.some(({ kind }) => kind === "undo") },
    {
      text: recording ? "do two things to a letter, then stop" : "record two things as a macro",
      isDone: made.length > 0,
    },
    { text: "put it on a key, in the workshop", isDone: made.some(({ id }) => bound(id)) },
  ];
}
