import { changedDeck, deckChange, type Deck } from "@/core/keys";
import type { Settings, Step } from "@/core/macro";
import type { MacroShape } from "@/core/api";
import { write } from "../state/api";
import { refreshSettings } from "../state/settings";
import { inLine } from "../state/writes";
import { perform } from "../state/edits";
import { set, view } from "../state/store";

type Patch = Partial<Pick<MacroShape, "name" | "colour" | "steps" | "settings">>;

async function patchMacro(id: number, patch: Patch): Promise<void> {
  set({ macros: view().macros.map((macro) => (macro.id === id ? { ...macro, ...patch } : macro)) });
  await inLine(() => write("PATCH", `/macros/${id}`, patch));
}

export function changeMacro(macro: MacroShape, patch: Patch, name: string): Promise<boolean> {
  const before = Object.fromEntries(Object.keys(patch).map((key) => [key, macro[key as keyof Patch]])) as Patch;
  return perform({ name, forward: () => patchMacro(macro.id, patch), backward: () => patchMacro(macro.id, before) });
}

/**
 * Changes steps as they are by then: what a dialog was opened on may have been changed since.
 * @param change from the steps that are stored to those wanted
 */
export function changeSteps(
  macro: MacroShape,
  change: (steps: readonly Step[]) => readonly Step[],
  name: string,
): Promise<unknown> {
  const now = view().macros.find((m) => m.id === macro.id) ?? macro;
  return changeMacro(now, { steps: [...change(now.steps)] }, name);
}

/** Changes settings as they are by then; undefined takes one out. */
export function changeSettings(
  macro: MacroShape,
  change: { [K in keyof Settings]?: Settings[K] | undefined },
  name: string,
): Promise<unknown> {
  const now = view().macros.find((m) => m.id === macro.id) ?? macro;
  const next = Object.entries({ ...now.settings, ...change }).filter(([, value]) => value !== undefined);
  return changeMacro(now, { settings: Object.fromEntries(next) as Settings }, name);
}

const setDeleted = async (id: number, deleted: boolean): Promise<void> => {
  await inLine(() => write("PATCH", `/macros/${id}`, { deleted }));
  await refreshSettings();
};

export function deleteMacro(macro: MacroShape): Promise<unknown> {
  return perform({
    name: `Deleted ${macro.name}`,
    forward: () => setDeleted(macro.id, true),
    backward: () => setDeleted(macro.id, false),
  });
}

/** Puts a macro at another place of the list. */
export function placeMacro(macro: MacroShape, from: number, to: number): Promise<unknown> {
  const put = (position: number) => async () => {
    await inLine(() => write("PATCH", `/macros/${macro.id}`, { position }));
    await refreshSettings();
  };
  return perform({ name: `Moved ${macro.name} in the list`, forward: put(to), backward: put(from) });
}

/** A macro from a recording. @returns its id, or null when it could not be made */
export async function createRecorded(steps: readonly Step[]): Promise<number | null> {
  return createMacro({ name: "Recorded", colour: "plum", steps: [...steps], settings: {} });
}

/** @param like its name, or the macro it is a copy of @returns the new macro's id, or null when it could not be made */
export async function createMacro(
  like: string | Pick<MacroShape, "name" | "colour" | "steps" | "settings">,
): Promise<number | null> {
  let made: number | null = null;
  await perform({
    name: typeof like === "string" ? "Made a macro" : `Copied ${like.name}`,
    forward: async () => {
      if (made !== null) return setDeleted(made, false);
      const body =
        typeof like === "string"
          ? { name: copyName(like || "New macro") }
          : { name: copyName(like.name), colour: like.colour, steps: like.steps, settings: like.settings };
      made = (await inLine(() => write<MacroShape>("POST", "/macros", body))).id;
      await refreshSettings();
    },
    backward: async () => {
      // It may still be on its way: what is in line before this is done first.
      await inLine(() => Promise.resolve());
      if (made !== null) await setDeleted(made, true);
    },
  });
  return made;
}

/** Stores what is to be other than it was: the rest may have been changed in another window meanwhile. */
async function patchDeck(from: Deck, to: Deck): Promise<void> {
  const { number, name } = to;
  const change = deckChange(from, to);
  const renamed = name === from.name ? {} : { name };
  const now = view().decks.find((deck) => deck.number === number) ?? emptyDeck(number);
  const others = view().decks.filter((deck) => deck !== now);
  set({ decks: [...others, { ...changedDeck(now, change), ...renamed }].sort((a, b) => a.number - b.number) });
  await inLine(() => write("PATCH", `/decks/${number}`, { ...renamed, change }));
}

/** A name like it that no macro has yet. */
function copyName(name: string): string {
  const taken = new Set(view().macros.map((macro) => macro.name.toLowerCase()));
  if (!taken.has(name.toLowerCase())) return name;
  for (let n = 2; ; n++) if (!taken.has(`${name} ${n}`.toLowerCase())) return `${name} ${n}`.slice(0, 80);
}

export const emptyDeck = (number: Deck["number"]): Deck => ({
  number,
  name: `Deck ${number}`,
  pads: [],
  extra: [],
  swipes: {},
});

export const changeDeck = (before: Deck, after: Deck, name: string): Promise<boolean> =>
  perform({ name, forward: () => patchDeck(before, after), backward: () => patchDeck(after, before) });
