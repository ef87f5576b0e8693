import type { z } from "zod";
import type { MacroShape, PackAnswer, packRequest } from "@/core/api";
import type { PersonId } from "@/core/id";
import { frameOf, keyProblemText, type Deck, type FrameKeys } from "@/core/keys";
import { stepsText } from "@/core/macro";
import { makePack, readPack, takePack, type Pack, type Taking } from "@/core/pack";
import type { Directory } from "@/core/place";
import { deckTable, ormOn, type Queryable, type Transaction } from "../db";
import { inTurn, notFound, readDirectory, readSettings, readTemplates, Refusal, settleNames } from "../run";
import { tell } from "../store";
import type { Context } from "./context";
import { readDecks } from "./decks";
import { readMacroShapes } from "./macros";
import { freeMarkers } from "./markers";
import { checkRoom, listRules } from "./rules";
import { orTaken } from "./taken";

interface Here {
  readonly directory: Directory;
  readonly macros: readonly MacroShape[];
  readonly decks: readonly Deck[];
  readonly frame: FrameKeys;
  /** Names of templates. */
  readonly templates: readonly string[];
}

async function readHere(sql: Queryable, person: PersonId): Promise<Here> {
  const [directory, macros, decks] = [
    await readDirectory(sql, person),
    await readMacroShapes(sql, person, null),
    await readDecks(sql, person),
  ];
  const frame = frameOf((await readSettings(sql, person)).frame);
  const templates = (await readTemplates(sql, person)).map(({ name }) => name);
  return { directory, macros, decks: decks as Deck[], frame, templates };
}

/** @param ids of macros; none means all */
export async function exportPack(context: Context, name: string, ids: readonly number[]): Promise<Pack> {
  const templates = await readTemplates(context.db.sql, context.person);
  const { directory, macros, decks } = await readHere(context.db.sql, context.person);
  const chosen = ids.length === 0 ? macros : macros.filter((macro) => ids.includes(macro.id));
  if (ids.length > 0 && chosen.length === 0) throw notFound("macro", ids.join(", "));
  const named = (await listRules(context)).flatMap(({ macro, ...rule }) => {
    const found = macros.find(({ id }) => id === macro)?.name ?? null;
    // Its macro was deleted, or is not asked for.
    if (found === null && (rule.time === "arrival" || ids.length > 0)) return [];
    const { narrow, stop, list, time, moreThan, outside, holdMinutes, look, remark } = rule;
    return [{ narrow, stop, list, time, moreThan, outside, holdMinutes, look, remark, macro: found }];
  });
  return makePack(name, chosen, macros, decks, directory, templates, named);
}

/** Keys as most layouts print them; a swipe by its name. */
const keysInWords = (keys: string): string => keys.replace(/\b(?:Key|Digit)(?=[A-Z0-9]\b)/g, "");

const answerOf = (taking: Taking): PackAnswer => ({
  macros: taking.macros.map(({ name, replaces, steps }) => ({ name, replaces, steps: stepsText(steps) })),
  folders: [...taking.folders],
  labels: taking.labels.map((label) => label.name),
  markers: taking.markers.map((marker) => marker.letter),
  templates: taking.templates.map(({ name }) => name),
  keys: taking.pads.length + taking.extra.length + taking.swipes.length,
  rules: taking.rules.map(({ narrow, macro }) => `${narrow || "all mail"}: ${macro ?? "asked or held on sending"}`),
  clashes: [...taking.clashes],
  missingFolders: [...taking.missingFolders],
  takenKeys: taking.takenKeys.map(
    ({ deck, keys, macro, why }) =>
      `${macro} on ${keysInWords(keys)} of deck ${deck}: ${why === "taken" ? "something of yours is there" : keyProblemText[why]}`,
  ),
});

/** What the macros of a pack are called here, and their ids. */
async function writeMacros(tx: Transaction, person: PersonId, taking: Taking): Promise<Map<string, number>> {
  const ids = new Map<string, number>();
  for (const { replaces, name, colour, steps, settings } of taking.macros) {
    const values = [JSON.stringify(steps), JSON.stringify(settings)] as const;
    const [row] =
      replaces === null
        ? await tx<{ id: number }[]>`
            insert into macro (person, name, colour, steps, settings, position)
            values (${person}, ${name}, ${colour}, ${values[0]}::text::jsonb, ${values[1]}::text::jsonb,
              (select coalesce(max(position), 0) + 1 from macro where person = ${person}))
            returning id`
        : await tx<{ id: number }[]>`
            update macro set name = ${name}, colour = ${colour}, steps = ${values[0]}::text::jsonb,
              settings = ${values[1]}::text::jsonb
            where person = ${person} and id = ${replaces} returning id`;
    ids.set(name, row!.id);
  }
  return ids;
}

async function writeKeys(
  tx: Transaction,
  person: PersonId,
  taking: Taking,
  decks: readonly Deck[],
  ids: ReadonlyMap<string, number>,
): Promise<void> {
  for (const number of new Set([...taking.pads, ...taking.extra, ...taking.swipes].map((key) => key.deck))) {
    const there = decks.find((deck) => deck.number === number);
    const own = taking.pads.filter((pad) => pad.deck === number);
    const pads = [
      ...(there?.pads ?? []),
      ...own.map(({ layer, code, macro }) => ({ layer, code, macro: ids.get(macro)! })),
    ];
    const extra = [
      ...(there?.extra ?? []),
      ...taking.extra.filter((e) => e.deck === number).map(({ keys, macro }) => ({ keys, macro: ids.get(macro)! })),
    ];
    const swipes = {
      ...there?.swipes,
      ...Object.fromEntries(
        taking.swipes.filter((s) => s.deck === number).map(({ swipe, macro }) => [swipe, ids.get(macro)!]),
      ),
    };
    await ormOn(tx)
      .insert(deckTable)
      .values({ person, number, name: there?.name ?? `Deck ${number}`, pads, extra, swipes })
      .onConflictDoUpdate({ target: [deckTable.person, deckTable.number], set: { pads, extra, swipes } });
  }
}

async function write(tx: Transaction, person: PersonId, taking: Taking, here: Here): Promise<void> {
  for (const path of taking.folders) await tx`insert into folder (person, path) values (${person}, ${path})`;
  for (const { name, colour } of taking.labels)
    await tx`insert into label (person, name, colour) values (${person}, ${name}, ${colour})`;
  const { markers } = here.directory;
  const free = await freeMarkers(tx, person, markers);
  if (taking.markers.length > free.length)
    throw new Refusal(
      409,
      "No more markers",
      `The pack brings ${taking.markers.length} markers; ${free.length} more can be had. Delete some first.`,
    );
  for (const [i, marker] of taking.markers.entries())
    await tx`
      insert into marker (person, id, position, letter, colour, meaning)
      values (${person}, ${free[i]!}, ${markers.length + i}, ${marker.letter}, ${marker.colour}, ${marker.meaning})`;
  for (const { name, folder, subject, body } of taking.templates)
    await tx`
      insert into template (person, name, folder, subject, body)
      values (${person}, ${name}, ${folder}, ${subject}, ${JSON.stringify(body)}::text::jsonb)`;
  const ids = await orTaken("macro", "of the pack", () => writeMacros(tx, person, taking));
  await writeKeys(tx, person, taking, here.decks, ids);
  await checkRoom(tx, person, taking.rules.length);
  // Switched off: nobody wants mail filed by what they have not looked at.
  for (const rule of taking.rules)
    await tx`
      insert into rule (person, narrow, macro, is_on, stop, list, time, more_than, outside, hold_minutes, look, remark, position)
      values (${person}, ${JSON.stringify(rule.narrow)}::text::jsonb, ${rule.macro === null ? null : ids.get(rule.macro)!}, false,
        ${rule.stop}, ${rule.list}, ${rule.time}, ${rule.moreThan}, ${rule.outside}, ${rule.holdMinutes}, ${rule.look}, ${rule.remark},
        (select coalesce(max(position), 0) + 1 from rule where person = ${person}))`;
  // Everything the macros name is there by now.
  await settleNames(tx, person);
  await tell(tx, person, "settings");
}

type Choices = z.infer<typeof packRequest>["choices"];

/** What taking a pack in would do. */
export const lookAtPack = async ({ db, person }: Context, pack: Pack, choices: Choices = {}): Promise<Taking> =>
  takePack(pack, await readHere(db.sql, person), choices);

/** Takes a pack in as part of a transaction. */
export async function writePack(tx: Transaction, person: PersonId, pack: Pack, choices: Choices = {}): Promise<Taking> {
  const here = await readHere(tx, person);
  const taking = takePack(pack, here, choices);
  await write(tx, person, taking, here);
  return taking;
}

/** Takes a pack in as one transaction, or says what that would do. */
export async function importPack(context: Context, body: z.infer<typeof packRequest>): Promise<PackAnswer> {
  const { db, person } = context;
  const read = readPack(body.pack);
  if (!read.ok) throw new Refusal(422, "Not a macro pack", read.why);
  const { pack } = read;
  if (body.dry) return answerOf(await lookAtPack(context, pack, body.choices));
  return answerOf(await inTurn(db, person, (tx) => writePack(tx, person, pack, body.choices)));
}
