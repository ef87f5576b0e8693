import {
  loadNarrow,
  refTo,
  storeNarrow,
  type IdOf,
  type NameOf,
  type Ref,
  type RefKind,
  type StoredNarrow,
} from "../narrow";
import { settingsSchema, type Settings } from "./settings";
import { mapSteps, stepsSchema, type Step } from "./step";
import { isGuessed } from "./value";

/**
 * Steps and settings as they are kept: what people name stands there by id (see core/narrow/stored). Outside, in
 * the API, packs and on the screen, it is names.
 */
const NAMING: readonly (readonly [step: Step["do"], param: string, kind: RefKind])[] = [
  ["move", "to", "folder"],
  ["copy", "to", "folder"],
  ["label", "add", "label"],
  ["label", "remove", "label"],
  ["label", "toggle", "label"],
  ["marker", "set", "marker"],
  ["run macro", "macro", "macro"],
  ["reply", "sent", "folder"],
  ["reply all", "sent", "folder"],
  ["forward", "sent", "folder"],
  ["new message", "sent", "folder"],
];

type Params = Record<string, unknown>;

const isRef = (value: unknown): value is Ref => typeof value === "object" && value !== null && "ref" in value;

function storeStep(step: Step, idOf: IdOf): Step {
  const out: Params = { ...step };
  for (const [kind, param, what] of NAMING) {
    const name = out[param];
    if (step.do !== kind) continue;
    if (typeof name === "string") out[param] = refTo(what, name, idOf) ?? name;
    else if (isGuessed(name) && typeof name.otherwise === "string")
      out[param] = { ...name, otherwise: refTo(what, name.otherwise, idOf) ?? name.otherwise };
  }
  if (typeof out.narrow === "string") out.narrow = storeNarrow(out.narrow, idOf);
  // Stored and loaded steps have the same shape but for their names; loadSteps checks what it gives back.
  return out as unknown as Step;
}

function loadStep(step: Step, nameOf: NameOf): Step {
  const out: Params = { ...step };
  const named = ({ ref, id, name }: Ref) => nameOf(ref, id) ?? name;
  for (const [param, value] of Object.entries(out))
    if (isRef(value)) out[param] = named(value);
    else if (isGuessed(value) && isRef(value.otherwise)) out[param] = { ...value, otherwise: named(value.otherwise) };
  if (out.narrow !== undefined) out.narrow = loadNarrow(out.narrow as StoredNarrow, nameOf);
  return out as unknown as Step;
}

/** Steps as JSON to be kept. `loadSteps(storeSteps(s))` is `s`, but for needless quotes in conditions. */
export const storeSteps = (steps: readonly Step[], idOf: IdOf): unknown =>
  mapSteps(steps, (step) => storeStep(step, idOf));

/** @throws an Error for anything that is no list of steps */
export const loadSteps = (stored: unknown, nameOf: NameOf): readonly Step[] =>
  stepsSchema.parse(mapSteps(stored as readonly Step[], (step) => loadStep(step, nameOf)));

export const storeSettings = (settings: Settings, idOf: IdOf): unknown =>
  settings.for === undefined ? settings : { ...settings, for: storeNarrow(settings.for, idOf) };

/** @throws an Error for anything that is no settings */
export function loadSettings(stored: unknown, nameOf: NameOf): Settings {
  const { for: which, ...rest } = stored as Params;
  const read = which === undefined ? rest : { ...rest, for: loadNarrow(which as StoredNarrow, nameOf) };
  return settingsSchema.parse(read);
}

/** The same stored value with what named some things naming another one: for a folder that is merged into another. */
export function redirected(stored: unknown, kind: RefKind, from: ReadonlySet<number>, to: number): unknown {
  if (Array.isArray(stored)) return stored.map((value) => redirected(value, kind, from, to));
  if (typeof stored !== "object" || stored === null) return stored;
  if (isRef(stored)) return stored.ref === kind && from.has(stored.id) ? { ...stored, id: to } : stored;
  return Object.fromEntries(Object.entries(stored).map(([key, value]) => [key, redirected(value, kind, from, to)]));
}

interface Written {
  readonly steps: readonly Step[];
  readonly settings: Settings;
}

/** A macro with other names in it, in its conditions and in which messages it is for too. */
export function withNames(macro: Written, rename: (kind: RefKind, name: string) => string): Written {
  const names: string[] = [];
  const idOf: IdOf = (_, name) => names.push(name);
  const nameOf: NameOf = (kind, id) => rename(kind, names[id - 1]!);
  return {
    steps: loadSteps(storeSteps(macro.steps, idOf), nameOf),
    settings: loadSettings(storeSettings(macro.settings, idOf), nameOf),
  };
}

/** What a macro names, in its conditions and in which messages it is for too; each once, as it is written. */
export function namesIn({ steps, settings }: Written): Readonly<Record<RefKind, ReadonlySet<string>>> {
  const names = {
    folder: new Set<string>(),
    label: new Set<string>(),
    marker: new Set<string>(),
    account: new Set<string>(),
    macro: new Set<string>(),
  };
  const note: IdOf = (kind, name) => {
    names[kind].add(name);
    return null;
  };
  storeSteps(steps, note);
  storeSettings(settings, note);
  return names;
}
