import * as z from "zod";
import { DECKS, LAYERS, PAD_CODES } from "../keys";
import { docSchema } from "../letter";
import { cut, unstorableAt } from "../text";
import { abilitiesOf, isTooDeep, listName, MOST_EXPANDED, settingsSchema, stepsSchema } from "../macro";
import { COLOURS, pathProblemText, readPath } from "../place";
import { SWIPES } from "../swipe";

/**
 * Macros to be handed on: one JSON document with what they need by name. Version 1. The JSON Schema made from
 * this is docs/macro-pack.schema.json.
 */
export const PACK_KIND = "tachyne macro pack";
export const PACK_VERSION = 1;

const colour = z.enum(COLOURS);
const name = z.string().trim().min(1).max(80);

export const packSchema = z.strictObject({
  kind: z.literal(PACK_KIND),
  version: z.literal(PACK_VERSION),
  name: name.describe("what the pack is for"),
  macros: z.array(z.strictObject({ name, colour, steps: stepsSchema, settings: settingsSchema })).max(500),
  decks: z
    .array(
      z.strictObject({
        number: z.literal([...DECKS]),
        name,
        pads: z.array(z.strictObject({ layer: z.enum(LAYERS), code: z.enum(PAD_CODES), macro: name })).max(30),
        extra: z.array(z.strictObject({ keys: z.string().max(120), macro: name })).max(100),
        swipes: z.partialRecord(z.enum(SWIPES), name).default({}),
      }),
    )
    .max(9),
  folders: z.array(z.string().min(1).max(200)).max(500).describe("paths the macros name"),
  labels: z.array(z.strictObject({ name, colour })).max(500),
  markers: z
    .array(z.strictObject({ letter: z.string().regex(/^\p{Lu}$/u), colour, meaning: z.string().max(60) }))
    .max(8),
  templates: z
    .array(
      z.union([
        name.describe("one that was not there when the pack was made"),
        z.strictObject({ name, folder: z.string().max(80), subject: z.string().max(2000), body: docSchema }),
      ]),
    )
    .max(500)
    .describe("templates the macros use"),
  rules: z
    .array(
      z.strictObject({
        narrow: z.string().max(2000).describe("which mail it is for"),
        macro: name.nullable().describe("what is done; null for a rule on sending that does nothing by a macro"),
        stop: z.boolean(),
        list: listName.nullable().describe("the list of senders it is for; who is on it does not go along"),
        time: z.enum(["arrival", "sending"]),
        moreThan: z.number().int().min(0).max(1000).nullable(),
        outside: z.boolean(),
        holdMinutes: z.number().int().min(1).max(10_080).nullable(),
        look: z.string().min(1).max(200).nullable(),
        remark: z.string().max(2000).nullable().default(null),
      }),
    )
    .max(500)
    .default([])
    .describe("rules that do them: they are taken in switched off"),
});

export type Pack = Readonly<z.infer<typeof packSchema>>;

/** A pack is read whole into memory; real ones are far smaller. */
export const LARGEST_PACK_BYTES = 2 * 1024 * 1024;

export type ReadPack = { readonly ok: true; readonly pack: Pack } | { readonly ok: false; readonly why: string };

/** @param text of a file somebody gave; may be anything */
export function readPack(text: string): ReadPack {
  const no = (why: string): ReadPack => ({ ok: false, why });
  if (text.length > LARGEST_PACK_BYTES) return no("The file is larger than any macro pack. Choose another.");
  if (isTooDeep(text)) return no("The file is nested deeper than any macro pack. Choose another.");
  let raw: unknown;
  try {
    raw = JSON.parse(text);
  } catch {
    return no("The file is not JSON, so it is no macro pack. Choose another.");
  }
  const at = unstorableAt(raw);
  if (at !== null)
    return no(`The pack holds a character that cannot be kept, ${whereIn(raw, at.split("."))}. Nothing was taken in.`);
  const head = raw as { kind?: unknown; version?: unknown } | null;
  if (typeof head !== "object" || head === null || head.kind !== PACK_KIND)
    return no("The file is not a macro pack of Tachyne. Choose another.");
  if (typeof head.version === "number" && head.version > PACK_VERSION)
    return no(
      `The pack is of version ${head.version}; this program reads version ${PACK_VERSION}. Update it, or ask for an older pack.`,
    );
  const read = packSchema.safeParse(raw);
  if (read.success) {
    const { macros, folders } = read.data;
    for (const path of folders) {
      const found = readPath(path);
      if (!found.ok) return no(`“${path}” is no folder: ${pathProblemText[found.problem]} Nothing was taken in.`);
    }
    const long = macros.find((macro) => abilitiesOf(macro, macros).expanded > MOST_EXPANDED);
    if (!long) return { ok: true, pack: read.data };
    return no(
      `The macro "${long.name}" comes to more than ${MOST_EXPANDED} steps with those it runs. Nothing was taken in.`,
    );
  }
  const [issue] = read.error.issues;
  return no(`The pack cannot be read ${whereIn(raw, issue?.path ?? [])}: ${issue?.message}. Nothing was taken in.`);
}

/** A place in a pack as a person would say it: "in the macro “Group in”, step 2". */
function whereIn(raw: unknown, path: readonly PropertyKey[]): string {
  const at = (...names: readonly PropertyKey[]): unknown =>
    names.reduce<unknown>((value, name) => (value as Record<PropertyKey, unknown> | undefined)?.[name], raw);
  const [part, n, ...rest] = path;
  if (part === undefined) return "at its beginning";
  if (n === undefined) return `at its ${String(part)}`;
  const number = Number(n) + 1;
  if (part === "decks") return `in the keys of deck ${String(at("decks", n, "number") ?? number)}`;
  if (part !== "macros") return `in its ${String(part)}, number ${number}`;
  const name = at("macros", n, "name");
  const macro = typeof name === "string" && name !== "" ? `in the macro “${cut(name, 80)}”` : `in macro ${number}`;
  return rest[0] === "steps" && rest[1] !== undefined ? `${macro}, step ${Number(rest[1]) + 1}` : macro;
}

/** The JSON Schema of a pack, as it is published. */
export const packJsonSchema = (): object => ({
  title: "Tachyne macro pack, version 1",
  ...z.toJSONSchema(packSchema, { io: "input", unrepresentable: "any", reused: "ref" }),
});
