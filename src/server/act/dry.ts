import { plural } from "@/core/text";
import { applyEdits, ofState, type MessageEdit, type MessageState } from "@/core/change";
import type { DryAnswer, RunRequest } from "@/core/api";
import type { MessageId } from "@/core/id";
import { abilitiesOf, letterPlanText, sourceText, type PlannedThing } from "@/core/macro";
import { plainOf } from "@/core/letter";
import type { Directory } from "@/core/place";
import { foreseeLetters } from "../letters";
import { letterOf, prepare, readAhead } from "../run";
import type { Context } from "./context";
import { SHOWN_SKIPS } from "./runs";

/** How many messages a dry run shows one by one. */
const SHOWN_DRY = 200;

/** Values as people write them: paths, names and letters instead of ids. */
export function namesIn(directory: Directory) {
  return (state: MessageState, cell: string): unknown => {
    if (cell === "folder") return directory.folders.find((f) => f.id === state.folder)?.path ?? null;
    if (cell === "marker") return directory.markers.find((m) => m.id === state.marker)?.letter ?? null;
    if (cell === "labels") return directory.labels.filter((l) => state.labels.includes(l.id)).map((l) => l.name);
    return state[cell as keyof MessageState];
  };
}

/** The cells of a state that edits write, before and after, in names. */
export function endsOf(before: MessageState, edits: readonly MessageEdit[], names: ReturnType<typeof namesIn>) {
  const after = applyEdits(before, edits);
  const cells = [...new Set(edits.filter(ofState).map((edit) => (edit.kind === "label" ? "labels" : edit.kind)))];
  const pick = (state: MessageState) => Object.fromEntries(cells.map((cell) => [cell, names(state, cell)]));
  return { before: pick(before), after: pick(after) };
}

const madeText = (thing: PlannedThing, names: ReturnType<typeof namesIn>): string => {
  if (thing.kind === "copy") return `copy in ${String(names(thing.state, "folder"))}`;
  if (thing.kind === "task") return `task: ${thing.task.title}`;
  if (thing.kind === "event") return `in the calendar: ${thing.event.title}, ${thing.event.at.slice(0, 10)}`;
  if (thing.kind === "letter") return letterPlanText(thing.letter);
  return thing.kind === "contact" ? `contact: ${thing.address}` : sourceText(thing);
};

/** Letters looked at beforehand: whom they go to is told of all, what they say of the first. */
const MOST_LETTERS = 1000;
const SHOWN_LETTERS = 3;

async function lettersOf(context: Context, things: readonly PlannedThing[]): Promise<DryAnswer["letters"]> {
  const planned = things.filter((thing) => thing.kind === "letter").slice(0, MOST_LETTERS);
  if (planned.length === 0) return [];
  const drafts = await foreseeLetters(
    context.db.sql,
    context,
    planned.map(({ source, letter }) => letterOf(source, letter)),
  );
  return drafts.map(({ to, cc, bcc, subject, body }, i) => ({
    message: planned[i]!.source,
    goes: planned[i]!.letter.goes,
    to: [...to, ...cc, ...bcc].map(({ address }) => address),
    subject,
    text: i < SHOWN_LETTERS ? plainOf(body) : null,
  }));
}

/** What the run would do, without doing it. */
export async function dryRun(context: Context, request: RunRequest): Promise<DryAnswer> {
  const { sql } = context.db;
  const {
    ids,
    macro,
    plan,
    states,
    gone,
    context: planContext,
  } = await prepare(sql, context, request, await readAhead(sql, context, request));
  const { change, things, skipped, asks } = plan;
  const totals: Record<string, number> = { messages: ids.length, changed: change.messages.size };
  for (const edits of change.messages.values()) for (const { kind } of edits) totals[kind] = (totals[kind] ?? 0) + 1;
  for (const { kind } of things) totals[kind] = (totals[kind] ?? 0) + 1;
  const names = namesIn(planContext.directory);
  const made = new Map<MessageId, string[]>();
  for (const thing of things) made.set(thing.source, [...(made.get(thing.source) ?? []), madeText(thing, names)]);
  const shown = [...new Set([...change.messages.keys(), ...made.keys()])].slice(0, SHOWN_DRY);
  const irreversible =
    plan.gone > 0 ? [`${plural(plan.gone, "message")} would be deleted for good. Nothing brings them back.`] : [];
  const asked = new Set(things.flatMap((thing) => (thing.kind === "leaving" ? [thing.of] : []))).size;
  if (asked > 0)
    irreversible.push(
      `${plural(asked, "sender")} would be asked to send nothing more. That is taken back while it is held back, and not once it has gone.`,
    );
  const reports = things.filter(({ kind }) => kind === "report").length;
  if (reports > 0)
    irreversible.push(
      `${plural(reports, "message")} would be reported. That is taken back while it is held back, and not once it has gone.`,
    );
  return {
    messages: shown.map((id) => {
      const edits = change.messages.get(id) ?? [];
      const deleted = edits.some((edit) => edit.kind === "gone");
      const ends = endsOf(states.get(id)!, edits, names);
      return {
        id,
        before: ends.before,
        after: deleted ? { ...ends.after, deleted: true } : ends.after,
        made: made.get(id) ?? [],
      };
    }),
    totals,
    skipped: [...gone, ...skipped].slice(0, SHOWN_SKIPS),
    irreversible,
    undoable: abilitiesOf(macro, planContext.macros).undoable,
    asks: [...asks],
    letters: await lettersOf(context, things),
  };
}
