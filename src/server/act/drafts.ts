import { randomUUID } from "node:crypto";
import type { z } from "zod";
import type { DraftFile, DraftPatch, DraftShape, newDraft, RunAnswer, sendRequest } from "@/core/api";
import { changeOf, type ThingEdit } from "@/core/change";
import { messageId, runId, type MessageId, type PersonId, type RunId } from "@/core/id";
import { isBlank, plainOf } from "@/core/letter";
import { folderFor, folderNamed, type Role } from "@/core/place";
import type { Queryable, Transaction } from "../db";
import {
  beginLetters,
  insertFiles,
  mediaType,
  readDraft,
  sealDraft,
  updateDraft,
  type DraftRow,
  type LetterFile,
} from "../letters";
import { inTurn, mustBeHere, notFound, readDirectory, Refusal, sendDraft as sendDraftIn } from "../run";
import { appendArrival, arrivedBy, findEntry, readPauses, readRun, readStates, showDraft } from "../store";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";
import { readRaw } from "./messages";
import { runAnswerOf } from "./runs";

/** Drafts: messages that are still being written. */

/** Bytes that may go along with one letter: what most services take, with what encoding adds. */
export const MOST_FILE_BYTES = 25 * 1024 * 1024;

const roleId = async (sql: Queryable, person: PersonId, role: Role): Promise<number> => {
  const found = folderFor(await readDirectory(sql, person), role);
  if (!found) throw new Refusal(409, "No folder for it", `No folder serves as ${role}.`);
  return found.id;
};

const filesOf = (sql: Queryable, person: PersonId, draft: number): Promise<DraftFile[]> =>
  sql<DraftFile[]>`
    select id, name, type, length(data) as size, cid from draft_file
    where person = ${person} and message = ${draft} order by id`;

async function shapeOf(sql: Queryable, person: PersonId, draft: DraftRow): Promise<DraftShape> {
  const { message, messageId: _, inReplyTo: __, references: ___, ...rest } = draft;
  const { folders, labels } = await readDirectory(sql, person);
  const on = new Set((await readStates(sql, person, [message])).get(message)?.labels);
  const pause = (await readPauses(sql, person, [message])).get(message);
  const waiting = pause && (JSON.parse(pause.macro) as { macro: { name: string; steps: unknown[] } }).macro;
  // Where nothing comes behind the letter, nothing goes on.
  const goesOn = waiting && pause.at !== String(waiting.steps.length);
  return {
    ...rest,
    id: message,
    to: [...rest.to],
    cc: [...rest.cc],
    bcc: [...rest.bcc],
    sent: folders.find(({ id }) => id === rest.sent)?.path ?? null,
    files: await filesOf(sql, person, message),
    labels: labels.filter(({ id }) => on.has(id)).map(({ name }) => name),
    waits: goesOn ? { run: pause.run, macro: waiting.name } : null,
  };
}

async function find(sql: Queryable, person: PersonId, id: number): Promise<DraftRow> {
  const draft = await readDraft(sql, person, messageId(id));
  if (!draft) throw notFound("draft", id);
  return draft;
}

/** Those in the drafts folder, the newest first. */
export async function listDrafts({ db, person }: Context): Promise<DraftShape[]> {
  const rows = await db.sql<{ message: MessageId }[]>`
    select d.message from draft d
      join message_state s on s.person = d.person and s.message = d.message
      join folder f on f.person = d.person and f.id = s.folder and f.role = 'drafts'
    where d.person = ${person} order by d.updated_at desc limit 500`;
  const drafts: DraftShape[] = [];
  for (const { message } of rows) drafts.push(await shapeOf(db.sql, person, await find(db.sql, person, message)));
  return drafts;
}

export const readDraftOf = async ({ db, person }: Context, id: number): Promise<DraftShape> =>
  shapeOf(db.sql, person, await find(db.sql, person, id));

/** The draft that a run has begun for a message. A window may hear of the run before its answer is there, or never. */
async function begunBy(
  sql: Queryable,
  person: PersonId,
  run: RunId,
  original: MessageId | null,
): Promise<DraftRow | null> {
  if (!(await findEntry(sql, person, run))) return null;
  const { written } = await readRun(sql, person, run);
  const begun = [...written.things.values()].find(
    (thing) => thing.kind === "pause" && thing.before === null && thing.about === original,
  );
  return begun === undefined ? null : readDraft(sql, person, messageId(Number(begun.key)));
}

/** Begins a draft, in the drafts folder at once; the same id again begins no second one. */
export async function createDraft(context: Context, body: z.infer<typeof newDraft>): Promise<DraftShape> {
  const { db, person, zone } = context;
  const { answers, id: asked, run, ...letter } = body;
  const request = runId(asked ?? randomUUID());
  return inTurn(db, person, async (tx, seq) => {
    const [begun] = (await arrivedBy(tx, person, request)) ?? [];
    if (begun !== undefined) return shapeOf(tx, person, await find(tx, person, begun));
    const original = answers === null ? null : messageId(answers);
    const ofRun = run === undefined ? null : await begunBy(tx, person, runId(run), original);
    if (ofRun) return shapeOf(tx, person, ofRun);
    if (original !== null && !(await readStates(tx, person, [original])).has(original))
      throw notFound("message", original);
    if (original !== null && letter.kind === "forward") await mustBeHere(tx, person, [original]);
    const folder = await roleId(tx, person, "drafts");
    const [id] = await beginLetters(tx, { person, zone }, [{ ...letter, answers: original }], folder, new Date());
    await appendArrival(tx, person, seq, request, [id!]);
    return shapeOf(tx, person, await find(tx, person, id!));
  });
}

async function folderId(tx: Transaction, person: PersonId, path: string | null): Promise<number | null> {
  if (path === null) return null;
  const found = folderNamed(await readDirectory(tx, person), path);
  if (!found) throw new Refusal(422, "No such folder", `There is no folder "${path}" for the sent copy.`);
  return found.id;
}

const elsewhere = () =>
  new Refusal(
    409,
    "Changed elsewhere",
    "This draft was changed in another window since it was opened here. Load it anew, or keep this one beside it.",
    { code: "changed-elsewhere" },
  );

async function mustBeDraft(tx: Transaction, person: PersonId, id: MessageId): Promise<void> {
  const state = (await readStates(tx, person, [id])).get(id);
  if (!state) throw notFound("draft", id);
  if (state.folder !== (await roleId(tx, person, "drafts")))
    throw new Refusal(
      409,
      "Not a draft any more",
      "It is on its way or was thrown away. Look in Outbox, Sent and Trash.",
    );
}

/** Saves what was edited. @throws Refusal (409) where another window has since */
export async function changeDraft({ db, person }: Context, id: number, body: DraftPatch): Promise<DraftShape> {
  const { version, left, sent, ...fields } = body;
  return inTurn(db, person, async (tx, seq) => {
    const old = await find(tx, person, id);
    await mustBeDraft(tx, person, old.message);
    if (old.version !== version) throw elsewhere();
    const next: DraftRow = {
      ...old,
      ...(Object.fromEntries(Object.entries(fields).filter(([, value]) => value !== undefined)) as Partial<DraftRow>),
      ...(sent === undefined ? {} : { sent: await folderId(tx, person, sent) }),
    };
    const saved = await updateDraft(tx, person, next, version);
    if (saved === null) throw elsewhere();
    if (left) await sealDraft(tx, person, old.message, new Date());
    else await showDraft(tx, person, next.message, { ...next, preview: plainOf(next.body) });
    await appendArrival(tx, person, seq, runId(randomUUID()), [id]);
    return shapeOf(tx, person, { ...next, version: saved });
  });
}

/**
 * Throws a draft away: into the trash, from where undo brings it back; what waited for it is dropped. One in which
 * nothing was written, and for which nothing waits, is simply gone.
 */
export async function throwDraftAway(context: Context, id: number): Promise<void> {
  const { db, person } = context;
  await inTurn(db, person, async (tx, seq) => {
    const draft = await find(tx, person, id);
    const drafts = await roleId(tx, person, "drafts");
    const trash = await roleId(tx, person, "trash");
    const { message } = draft;
    await mustBeDraft(tx, person, message);
    const pause = (await readPauses(tx, person, [message])).get(message);
    const { kind, body, subject, to, cc, bcc } = draft;
    const isWritten = !isBlank(body) || subject.trim() !== "" || to.length + cc.length + bcc.length > 0;
    const isEmpty = kind === "new" && !isWritten && !pause && (await filesOf(tx, person, id)).length === 0;
    const edits = isEmpty
      ? ([{ kind: "gone", message, before: false, after: true }] as const)
      : ([{ kind: "folder", message, before: drafts, after: trash }] as const);
    const things: ThingEdit[] = pause
      ? [{ kind: "pause", key: String(id), about: messageId(pause.message), before: pause, after: null }]
      : [];
    await writeByHand(tx, context, seq, changeOf(edits as never, things), {
      name: pause ? "Throw draft away; what waited for it is dropped" : "Throw draft away",
      about: draft.subject || "(no subject)",
      messages: 1,
    });
  });
}

/** Sends a draft (see server/run/queue). */
export async function sendDraft(
  context: Context,
  id: number,
  { id: run, version, afterwards }: z.infer<typeof sendRequest>,
): Promise<RunAnswer> {
  const entry = await sendDraftIn(context.db, context, { id: runId(run), draft: messageId(id), version, afterwards });
  return runAnswerOf(context, entry);
}

/** Its row and its source hold the files it has: the letter may have been left before one of them came. */
async function resealed(tx: Transaction, person: PersonId, seq: number, draft: MessageId): Promise<void> {
  await sealDraft(tx, person, draft, new Date());
  await appendArrival(tx, person, seq, runId(randomUUID()), [draft]);
}

async function addFile({ db, person }: Context, id: number, file: Omit<LetterFile, "id" | "cid">): Promise<DraftFile> {
  return inTurn(db, person, async (tx, seq) => {
    const draft = await find(tx, person, id);
    await mustBeDraft(tx, person, draft.message);
    const held = (await filesOf(tx, person, id)).reduce((sum, { size }) => sum + size, 0);
    if (held + file.data.length > MOST_FILE_BYTES)
      throw new Refusal(
        413,
        "Too large",
        "Files of one letter may have 25 MB together. Send some of them by themselves.",
      );
    const [made] = await insertFiles(tx, person, draft.message, [{ ...file, cid: null }]);
    await resealed(tx, person, seq, draft.message);
    return { id: made!.id, name: made!.name, type: made!.type, size: file.data.length, cid: null };
  });
}

export const addDraftFile = (context: Context, id: number, name: string, type: string, data: Uint8Array) =>
  addFile(context, id, { name: name.trim() || "file", type: mediaType(type), data });

/** A message goes along as it came in. */
export async function addDraftMessage(context: Context, id: number, message: number): Promise<DraftFile> {
  const data = await readRaw(context, message);
  return addFile(context, id, { name: `message-${message}.eml`, type: "message/rfc822", data });
}

type FileOut = Pick<LetterFile, "name" | "type" | "data">;

export async function readDraftFile({ db, person }: Context, id: number, file: number): Promise<FileOut> {
  const [row] = await db.sql<FileOut[]>`
    select name, type, data from draft_file where person = ${person} and message = ${id} and id = ${file}`;
  if (!row) throw notFound("file", file);
  return row;
}

/** Takes a file out of a draft. @returns what was taken out: whoever did so by mistake can put it back */
export async function removeDraftFile({ db, person }: Context, id: number, file: number): Promise<FileOut> {
  return inTurn(db, person, async (tx, seq) => {
    await mustBeDraft(tx, person, messageId(id));
    const [out] = await tx<FileOut[]>`
      delete from draft_file where person = ${person} and message = ${id} and id = ${file} returning name, type, data`;
    if (!out) throw notFound("file", file);
    await resealed(tx, person, seq, messageId(id));
    return out;
  });
}
