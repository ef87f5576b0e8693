import { changeOfMessages, type Change, type MessageEdit, type ThingEdit } from "@/core/change";
import type { FolderId, MessageId, RunId } from "@/core/id";
import { readCorrespondents } from "@/core/letter";
import { macrosReached, type Answers, type LetterPlan, type Plan, type PlanContext } from "@/core/macro";
import { folderFor } from "@/core/place";
import type { Transaction } from "../db";
import { beginLetters, type NewLetter } from "../letters";
import type { Macro } from "./planning";
import type { Who } from "./turn";

/** The letters of a plan: begun, queued or put before the person, each with what waits for it. */

interface Waiting {
  readonly macro: Macro;
  readonly answers: Answers;
  readonly context: PlanContext;
}

export const letterOf = (source: MessageId, { how, to, filled, ...rest }: LetterPlan): NewLetter => ({
  kind: how,
  answers: source,
  ...(to === null ? {} : { to: readCorrespondents(to) }),
  ...(filled === null ? {} : { subject: filled.subject, body: filled.body }),
  prefix: rest.prefix,
  suffix: rest.suffix,
  sendAt: rest.sendAt,
  sent: rest.sent,
  sentToo: rest.sentToo,
});

/**
 * Begins the letters of a plan. Each is thrown away at first, and the run takes it from there: so that taking the run
 * back puts it there again, with whatever was written in it.
 */
export async function makeLetters(
  tx: Transaction,
  who: Who,
  plan: Plan,
  run: RunId,
  { macro, answers, context }: Waiting,
): Promise<{ readonly ids: readonly MessageId[]; readonly change: Change }> {
  const letters = plan.things.filter((thing) => thing.kind === "letter");
  if (letters.length === 0) return { ids: [], change: changeOfMessages([]) };
  const { directory, now } = context;
  const folder = (role: "trash" | "drafts" | "outbox"): FolderId => {
    const found = folderFor(directory, role);
    if (!found) throw new Error(`no folder serves as ${role}`);
    return found.id;
  };
  const trash = folder("trash");
  const ids = await beginLetters(
    tx,
    who,
    letters.map(({ source, letter }) => letterOf(source, letter)),
    trash,
    now,
  );
  const kept = JSON.stringify({
    macro: { id: macro.id, name: macro.name, steps: macro.steps, settings: macro.settings },
    macros: macrosReached(macro, context.macros),
    answers,
    now: now.toISOString(),
  });
  const edits = new Map<MessageId, readonly MessageEdit[]>();
  const things: ThingEdit[] = [];
  letters.forEach(({ source, letter }, i) => {
    const id = ids[i]!;
    const goes = letter.goes === "outbox" ? folder("outbox") : folder("drafts");
    edits.set(id, [{ kind: "folder", before: trash, after: goes }]);
    const thing = { key: String(id), about: source, before: null } as const;
    if (letter.goes === "outbox") things.push({ ...thing, kind: "held", after: "waiting" });
    if (plan.pauses.some(({ message, at }) => message === source && at === letter.at))
      things.push({ ...thing, kind: "pause", after: { run, message: source, at: letter.at, macro: kept } });
  });
  return { ids, change: changeOfMessages(edits, things) };
}
