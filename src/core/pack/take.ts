import {
  keyProblem,
  padKeys,
  type Deck,
  type DeckNumber,
  type FrameKeys,
  type KeyProblem,
  type Layer,
  type PadCode,
} from "../keys";
import { cut } from "../text";
import { withNames, type Settings, type Step } from "../macro";
import { folderNamed, labelNamed, markerNamed, type Colour, type Directory } from "../place";
import { SWIPES, type Swipe } from "../swipe";
import type { PackedMacro } from "./make";
import type { Pack } from "./shape";

/** What to do with a macro whose name is taken. */
export type Clash = "both" | "replace" | "leave";

export interface Choices {
  /** By the pack's macro name; those not named are kept beside the ones that are here. */
  readonly clashes?: Readonly<Record<string, Clash>>;
  /** A folder that is missing, to one that is here; those not named are made. */
  readonly folders?: Readonly<Record<string, string>>;
  /** Whether the pack's keys are taken over where they are free. */
  readonly keys?: boolean;
}

/** What taking a pack in would do, before it is done. */
export interface Taking {
  readonly macros: readonly {
    readonly name: string;
    /** The one it replaces. */
    readonly replaces: number | null;
    readonly colour: Colour;
    readonly steps: readonly Step[];
    readonly settings: Settings;
  }[];
  readonly folders: readonly string[];
  readonly labels: Pack["labels"];
  readonly markers: Pack["markers"];
  /** Those whose names are not here yet; one that is here stays as it is. */
  readonly templates: readonly Exclude<Pack["templates"][number], string>[];
  readonly pads: readonly {
    readonly deck: DeckNumber;
    readonly layer: Layer;
    readonly code: PadCode;
    readonly macro: string;
  }[];
  readonly extra: readonly { readonly deck: DeckNumber; readonly keys: string; readonly macro: string }[];
  readonly swipes: readonly { readonly deck: DeckNumber; readonly swipe: Swipe; readonly macro: string }[];
  /** With their macros as they are called here. */
  readonly rules: Pack["rules"];
  /** Names of macros that are here already. */
  readonly clashes: readonly string[];
  readonly missingFolders: readonly string[];
  /** Keys that were left, each with why. */
  readonly takenKeys: readonly LeftKey[];
}

/** Keys of a pack that its macro is not put on: something else of the person's is there, or nobody may have them. */
export interface LeftKey {
  readonly deck: DeckNumber;
  /** Keys, or a swipe. */
  readonly keys: string;
  readonly macro: string;
  readonly why: KeyProblem | "taken";
}

const lower = (text: string) => text.toLowerCase();

/** A name nobody has yet: "Archive", "Archive 2", … */
function freeName(name: string, taken: ReadonlySet<string>): string {
  if (!taken.has(lower(name))) return name;
  for (let n = 2; ; n++) {
    const next = `${cut(name, 74)} ${n}`;
    if (!taken.has(lower(next))) return next;
  }
}

/** What taking the pack in means here: what is new, what clashes, what is missing. Changes nothing. */
export function takePack(
  pack: Pack,
  here: {
    readonly directory: Directory;
    readonly macros: readonly PackedMacro[];
    readonly decks: readonly Deck[];
    readonly frame?: FrameKeys;
    /** Names of templates. */
    readonly templates?: readonly string[];
  },
  choices: Choices = {},
): Taking {
  const { directory } = here;
  const mine = new Map(here.macros.map((macro) => [lower(macro.name), macro]));
  const taken = new Set(mine.keys());
  const missingFolders = pack.folders.filter((path) => !folderNamed(directory, path));
  const mapped = new Map(
    missingFolders.flatMap((path) => {
      const to = choices.folders?.[path];
      return to !== undefined && folderNamed(directory, to) ? [[path, to] as const] : [];
    }),
  );
  /** What each of the pack's macros is called here; null for those left out. */
  const names = new Map<string, string | null>();
  const clashes: string[] = [];
  for (const macro of pack.macros) {
    const old = mine.get(lower(macro.name));
    if (old) clashes.push(macro.name);
    const clash = old ? (choices.clashes?.[macro.name] ?? "both") : "both";
    const name = clash === "both" ? freeName(macro.name, taken) : clash === "replace" ? old!.name : null;
    if (name !== null) taken.add(lower(name));
    names.set(macro.name, name);
  }
  const foldersHere = new Map([...mapped].map(([from, to]) => [lower(from), to]));
  const macrosHere = new Map([...names].flatMap(([from, to]) => (to === from ? [] : [[lower(from), to] as const])));
  const followed = (macro: Pick<Pack["macros"][number], "steps" | "settings">) =>
    withNames(macro, (kind, name) => {
      const here = kind === "folder" ? foldersHere : kind === "macro" ? macrosHere : null;
      return here?.get(lower(name)) ?? name;
    });
  const macros = pack.macros.flatMap((macro) => {
    const name = names.get(macro.name) ?? null;
    if (name === null) return [];
    const old = mine.get(lower(name));
    return [{ ...macro, name, ...followed(macro), replaces: old?.id ?? null }];
  });

  const rules = pack.rules.flatMap((rule) => {
    const name = rule.macro === null ? null : (names.get(rule.macro) ?? null);
    if (name === null && rule.macro !== null) return [];
    const narrow = followed({ steps: [], settings: { for: rule.narrow } }).settings.for ?? "";
    return [{ ...rule, narrow, macro: name }];
  });

  const takenKeys: LeftKey[] = [];
  const pads: Taking["pads"][number][] = [];
  const extra: Taking["extra"][number][] = [];
  const swipes: Taking["swipes"][number][] = [];
  for (const deck of choices.keys === false ? [] : pack.decks) {
    const there = here.decks.find((d) => d.number === deck.number);
    for (const { layer, code, macro } of deck.pads) {
      const name = names.get(macro);
      if (!name) continue;
      if (there?.pads.some((pad) => pad.layer === layer && pad.code === code))
        takenKeys.push({ deck: deck.number, keys: padKeys({ layer, code }), macro: name, why: "taken" });
      else pads.push({ deck: deck.number, layer, code, macro: name });
    }
    for (const { keys, macro } of deck.extra) {
      const name = names.get(macro);
      if (!name) continue;
      const why = there?.extra.some((e) => e.keys === keys) ? "taken" : keyProblem(keys, here.frame);
      if (why !== null) takenKeys.push({ deck: deck.number, keys, macro: name, why });
      else extra.push({ deck: deck.number, keys, macro: name });
    }
    for (const swipe of SWIPES) {
      const name = names.get(deck.swipes[swipe] ?? "");
      if (!name) continue;
      if (there?.swipes[swipe] !== undefined)
        takenKeys.push({ deck: deck.number, keys: swipe, macro: name, why: "taken" });
      else swipes.push({ deck: deck.number, swipe, macro: name });
    }
  }
  return {
    macros,
    folders: missingFolders.filter((path) => !mapped.has(path)),
    labels: pack.labels.filter((label) => !labelNamed(directory, label.name)),
    markers: pack.markers.filter((marker) => !markerNamed(directory, marker.letter)),
    templates: pack.templates
      .filter((template) => typeof template !== "string")
      .filter(({ name }) => !here.templates?.some((one) => one.toLowerCase() === name.toLowerCase())),
    pads,
    extra,
    swipes,
    rules,
    clashes,
    missingFolders,
    takenKeys,
  };
}
