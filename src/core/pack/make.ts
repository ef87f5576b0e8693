import type { Deck } from "../keys";
import { namesIn, walkSteps, type Settings, type Step, type Template } from "../macro";
import { folderNamed, labelNamed, markerNamed, type Colour, type Directory } from "../place";
import { PACK_KIND, PACK_VERSION, type Pack } from "./shape";

export interface PackedMacro {
  readonly id: number;
  readonly name: string;
  readonly colour: Colour;
  readonly steps: readonly Step[];
  readonly settings: Settings;
}

/** A rule, with its macro by name. */
export type PackedRule = Pack["rules"][number];

export interface PackedTemplate extends Template {
  readonly folder: string;
}

/** The templates that steps name. */
const templatesIn = (steps: readonly Step[]): string[] =>
  [...walkSteps(steps)].flatMap(({ step }) => ("template" in step && step.template ? [step.template] : []));

const lower = (text: string) => text.toLowerCase();

/** The macros and those they run, so that a pack never comes without what it needs. */
function withCalled(chosen: readonly PackedMacro[], all: readonly PackedMacro[]): readonly PackedMacro[] {
  const kept = new Map(chosen.map((macro) => [macro.id, macro]));
  for (const macro of kept.values())
    for (const name of namesIn(macro).macro) {
      const called = all.find((other) => lower(other.name) === lower(name));
      if (called) kept.set(called.id, called);
    }
  return [...kept.values()];
}

/** A pack of the macros with all they name, and of the decks as far as they hold these macros. */
export function makePack(
  name: string,
  chosen: readonly PackedMacro[],
  all: readonly PackedMacro[],
  decks: readonly Deck[],
  directory: Directory,
  templates: readonly PackedTemplate[] = [],
  rules: readonly PackedRule[] = [],
): Pack {
  const macros = withCalled(chosen, all);
  const nameOf = new Map(macros.map((macro) => [macro.id, macro.name]));
  const packed = new Set(macros.map(({ name: macro }) => lower(macro)));
  const going = rules.filter(({ macro }) => macro === null || packed.has(lower(macro)));
  const named = [...macros, ...going.map(({ narrow }) => ({ steps: [], settings: { for: narrow } }))].map(namesIn);
  const every = (what: keyof ReturnType<typeof namesIn>) => [...new Set(named.flatMap((names) => [...names[what]]))];
  const found = <T>(names: readonly string[], find: (d: Directory, name: string) => T | undefined) =>
    names.map((n) => find(directory, n)).filter((thing) => thing !== undefined);
  return {
    kind: PACK_KIND,
    version: PACK_VERSION,
    name,
    macros: macros.map(({ name: macro, colour, steps, settings }) => ({ name: macro, colour, steps, settings })),
    decks: decks
      .map((deck) => ({
        number: deck.number,
        name: deck.name,
        pads: deck.pads.flatMap(({ layer, code, macro }) => {
          const macroName = nameOf.get(macro);
          return macroName ? [{ layer, code, macro: macroName }] : [];
        }),
        extra: deck.extra.flatMap(({ keys, macro }) => {
          const macroName = nameOf.get(macro);
          return macroName ? [{ keys, macro: macroName }] : [];
        }),
        swipes: Object.fromEntries(
          Object.entries(deck.swipes).flatMap(([swipe, macro]) => {
            const macroName = macro === undefined ? undefined : nameOf.get(macro);
            return macroName ? [[swipe, macroName]] : [];
          }),
        ),
      }))
      .filter((deck) => deck.pads.length + deck.extra.length + Object.keys(deck.swipes).length > 0),
    // Written twice in another case it is one.
    folders: [
      ...new Map(every("folder").map((path) => [lower(path), folderNamed(directory, path)?.path ?? path])).values(),
    ],
    labels: found(every("label"), labelNamed).map(({ name: label, colour }) => ({ name: label, colour })),
    markers: found(every("marker"), markerNamed).map(({ letter, colour, meaning }) => ({ letter, colour, meaning })),
    templates: [...new Set(macros.flatMap((macro) => templatesIn(macro.steps)))].map((wanted) => {
      const found = templates.find((template) => lower(template.name) === lower(wanted));
      return found ? { name: found.name, folder: found.folder, subject: found.subject, body: found.body } : wanted;
    }),
    rules: [...going],
  };
}
