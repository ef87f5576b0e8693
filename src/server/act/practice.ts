import { randomUUID } from "node:crypto";
import type { PracticeShape } from "@/core/api";
import { folderNamed } from "@/core/place";
import { PRACTICE_DOMAIN, PRACTICE_LIST, practiceMail } from "../letters";
import { inTurn, readDirectory, readSettings as readSettingsIn } from "../run";
import { readSettings, setIn, writeSettings } from "./settings";
import { importFile } from "./imports";
import type { Context } from "./context";
import { removeFolder } from "./remove";
import { runMacro } from "./runs";

/** Practice: twelve letters in a folder of their own, and their going. */

export const PRACTICE_FOLDER = "Practice";
/** All of it, wherever it was put, and what was written to it. */
const PRACTICE = `list~${PRACTICE_LIST} | to~${PRACTICE_DOMAIN}`;

/** Begins practising; where that is under way, goes on. */
export async function beginPractice(context: Context): Promise<PracticeShape> {
  const { db, person } = context;
  const now = new Date();
  const { practice, letters } = await inTurn(db, person, async (tx) => {
    const { practice } = await readSettingsIn(tx, person);
    if (practice && !practice.over) return { practice, letters: null };
    const [who] = await tx<{ address: string; macro: number }[]>`
      select p.address, (select coalesce(max(id), 0) from macro where person = p.id)::int as macro
      from person p where p.id = ${person}`;
    const begun: PracticeShape = { begun: now.toISOString(), macro: who!.macro, over: false };
    await setIn(tx, person, { practice: begun });
    return { practice: begun, letters: practiceMail(who!.address, randomUUID(), now) };
  });
  if (letters)
    await importFile(
      context,
      "practice",
      PRACTICE_FOLDER,
      (async function* () {
        yield* letters;
      })(),
    );
  return practice;
}

/** Takes the practice letters away for good, with what was written to them, and does not offer them again. */
export async function endPractice(context: Context): Promise<void> {
  const { db, person } = context;
  const { practice } = await readSettings(context);
  const over = { begun: new Date().toISOString(), macro: 0, ...practice, over: true };
  await writeSettings(context, { practice: over });
  await runMacro(context, {
    id: randomUUID(),
    macro: { name: "End of practice", steps: [{ do: "delete for good" }], settings: {} },
    target: { narrow: PRACTICE },
    answers: {},
    about: "the practice letters",
  });
  const directory = await inTurn(db, person, (tx) => readDirectory(tx, person));
  const folder = folderNamed(directory, PRACTICE_FOLDER);
  if (!folder) return;
  const inbox = directory.folders.find(({ role }) => role === "inbox");
  // What else somebody put there goes to the inbox.
  await removeFolder(context, folder.id, { to: inbox?.path ?? null, merge: false });
}
