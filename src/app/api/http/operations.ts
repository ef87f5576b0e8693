import * as z from "zod";
import * as shape from "@/core/api";

interface Operation {
  readonly method: "get" | "post" | "patch" | "delete";
  readonly path: string;
  readonly summary: string;
  readonly query?: Readonly<Record<string, string>>;
  readonly body?: z.ZodType;
  readonly answer?: z.ZodType;
  readonly status?: number;
  /** For answers and bodies that are not JSON. */
  readonly media?: string;
}

const crud = (
  path: string,
  what: string,
  list: z.ZodType,
  fresh: z.ZodType,
  patch: z.ZodType,
  removal: Pick<Operation, "summary" | "query" | "answer" | "status"> = { summary: `Delete a ${what}`, status: 204 },
): Operation[] => [
  { method: "get", path, summary: `All ${what}s`, answer: list.array() },
  { method: "post", path, summary: `A new ${what}`, body: fresh, answer: list, status: 201 },
  { method: "patch", path: `${path}/{id}`, summary: `Change a ${what}`, body: patch, answer: list },
  { method: "delete", path: `${path}/{id}`, ...removal },
];

/** Every operation of the API, from which its description is made. */
export const OPERATIONS: readonly Operation[] = [
  { method: "get", path: "/home", summary: "What a window needs to begin", answer: shape.homeShape },
  {
    method: "get",
    path: "/messages",
    summary: "Messages that match a narrowing",
    query: {
      narrow: "expression",
      order: "oldest or newest",
      limit: "1 to 1000",
      after: "place, from the page before",
    },
    answer: shape.messageListShape,
  },
  {
    method: "get",
    path: "/messages/{id}",
    summary: "One message with its text, files and thread",
    answer: shape.messageShape,
  },
  { method: "get", path: "/messages/{id}/raw", summary: "The source as it came in", media: "message/rfc822" },
  { method: "get", path: "/messages/{id}/files/{index}", summary: "An attachment", media: "application/octet-stream" },
  {
    method: "post",
    path: "/runs",
    summary: "Run a macro, or say what it would do with dry",
    body: shape.runRequest,
    answer: shape.runAnswer.or(shape.dryAnswer),
  },
  {
    method: "get",
    path: "/ledger",
    summary: "Runs, newest first",
    query: { limit: "1 to 500", before: "seq", macro: "id", message: "id" },
    answer: shape.entryShape.array(),
  },
  { method: "get", path: "/ledger/{id}", summary: "What a run changed", answer: shape.entryDetail },
  {
    method: "post",
    path: "/ledger/{id}/undo",
    summary: "Take a run back",
    body: shape.undoRequest,
    answer: shape.undoAnswer,
  },
  {
    method: "post",
    path: "/ledger/{id}/redo",
    summary: "Do a run again that was taken back",
    body: shape.undoRequest,
    answer: shape.undoAnswer,
  },
  {
    method: "post",
    path: "/import",
    summary: "Take in an mbox or eml file",
    query: { folder: "path", name: "of the file" },
    media: "application/mbox",
    status: 202,
  },
  { method: "get", path: "/jobs", summary: "Imports, newest first", answer: shape.jobShape.array() },
  { method: "get", path: "/jobs/{id}", summary: "How far an import is", answer: shape.jobShape },
  {
    method: "get",
    path: "/export",
    summary: "Messages as they came in",
    query: { narrow: "expression", ids: "1,2,3", format: "mbox or zip" },
    media: "application/mbox",
  },
  {
    method: "get",
    path: "/events",
    summary: "Everything written, as it is written",
    query: { after: "seq" },
    media: "text/event-stream",
  },
  { method: "get", path: "/health", summary: "Whether the app and its database answer" },
  ...crud("/folders", "folder", shape.folderShape, shape.newFolder, shape.folderPatch, {
    summary: "Remove a folder with those below it; their mail goes elsewhere, as a run that can be taken back",
    query: { to: "path of the folder the mail goes to", merge: "true: macros and batches follow", run: "UUID" },
    answer: shape.runAnswer,
  }),
  ...crud("/labels", "label", shape.labelShape, shape.newLabel, shape.labelPatch, {
    summary: "Remove a label from all mail, as a run that can be taken back",
    query: { run: "UUID" },
    answer: shape.runAnswer,
  }),
  ...crud("/batches", "batch", shape.batchShape, shape.newBatch, shape.batchPatch),
  ...crud("/markers", "marker", shape.markerShape, shape.newMarker, shape.markerPatch),
  ...crud("/macros", "macro", shape.macroShape, shape.newMacro, shape.macroPatch),
  { method: "get", path: "/narrowings", summary: "Conditions used before, newest first", answer: z.string().array() },
  {
    method: "post",
    path: "/narrowings",
    summary: "Note that a condition was used",
    body: shape.newNarrowing,
    status: 204,
  },
  { method: "get", path: "/tasks", summary: "Tasks, open ones first", answer: shape.taskShape.array() },
  { method: "patch", path: "/tasks/{id}", summary: "Change a task", body: shape.taskPatch, answer: shape.taskShape },
  { method: "get", path: "/blocked", summary: "Blocked senders", answer: shape.blockedShape.array() },
  {
    method: "post",
    path: "/blocked",
    summary: "Block a sender: mail of theirs comes in as junk",
    body: shape.newBlocked,
    answer: shape.blockedShape,
    status: 201,
  },
  { method: "delete", path: "/blocked/{address}", summary: "Unblock a sender", status: 204 },
  { method: "get", path: "/drafts", summary: "Drafts, the newest first", answer: shape.draftShape.array() },
  {
    method: "post",
    path: "/drafts",
    summary: "Begin a letter, or an answer to a message",
    body: shape.newDraft,
    answer: shape.draftShape,
    status: 201,
  },
  { method: "get", path: "/drafts/{id}", summary: "A draft", answer: shape.draftShape },
  {
    method: "patch",
    path: "/drafts/{id}",
    summary: "Save a draft; 409 where another window has since",
    body: shape.draftPatch,
    answer: shape.draftShape,
  },
  { method: "delete", path: "/drafts/{id}", summary: "Throw a draft away; undo brings it back", status: 204 },
  {
    method: "post",
    path: "/drafts/{id}/send",
    summary: "Send a draft: it is held back for a moment, and undo calls it back",
    body: shape.sendRequest,
    answer: shape.runAnswer,
  },
  {
    method: "post",
    path: "/drafts/{id}/files",
    summary: "Put a file, or a message as it came in, to a draft",
    query: { name: "of the file", message: "id of a message, instead of a body" },
    media: "application/octet-stream",
    answer: shape.draftFileShape,
    status: 201,
  },
  {
    method: "get",
    path: "/drafts/{id}/files/{file}",
    summary: "A file of a draft",
    media: "application/octet-stream",
  },
  { method: "delete", path: "/drafts/{id}/files/{file}", summary: "Take a file out of a draft", status: 204 },
  { method: "get", path: "/outgoing", summary: "What is on its way", answer: shape.outgoingShape.array() },
  {
    method: "patch",
    path: "/outgoing/{id}",
    summary: "Do something about a message on its way; null once it is not on its way any more",
    body: shape.outgoingPatch,
    answer: shape.outgoingShape.nullable(),
  },
  ...crud("/templates", "template", shape.templateShape, shape.newTemplate, shape.templatePatch),
  ...crud("/identities", "identity", shape.identityShape, shape.newIdentity, shape.identityPatch),
  ...crud("/groups", "group of contacts", shape.groupShape, shape.newGroup, shape.groupPatch),
  { method: "get", path: "/contacts", summary: "All contacts", answer: shape.contactShape.array() },
  {
    method: "post",
    path: "/contacts",
    summary: "Keep somebody as a contact",
    body: shape.newContact,
    answer: shape.contactShape,
    status: 201,
  },
  {
    method: "patch",
    path: "/contacts/{address}",
    summary: "Change a contact, or merge it into another one",
    body: shape.contactPatch,
    answer: shape.contactShape,
  },
  { method: "delete", path: "/contacts/{address}", summary: "Keep a contact no longer", status: 204 },
  {
    method: "get",
    path: "/correspondents",
    summary: "Whom one may write to, for completing addresses",
    answer: shape.correspondentsShape,
  },
  { method: "get", path: "/settings", summary: "Settings", answer: shape.settingsShape },
  {
    method: "patch",
    path: "/settings",
    summary: "Change settings",
    body: shape.settingsPatch,
    answer: shape.settingsShape,
  },
  { method: "get", path: "/simulator", summary: "The simulated mail service", answer: shape.simulatorShape },
  {
    method: "patch",
    path: "/simulator",
    summary: "Change how the simulated mail service behaves",
    body: shape.simulatorPatch,
    answer: shape.simulatorShape,
  },
  {
    method: "post",
    path: "/simulator/mail",
    summary: "Let messages come from it at once",
    body: shape.mailRequest,
    answer: shape.simulatorShape,
    status: 202,
  },
  {
    method: "get",
    path: "/packs",
    summary: "Macros with all they need, as a macro pack",
    query: { macros: "1,2,3; without it all", name: "of the pack" },
    media: "application/json",
  },
  {
    method: "post",
    path: "/packs",
    summary: "Take a macro pack in, or say what that would do with dry",
    body: shape.packRequest,
    answer: shape.packAnswer,
  },
  ...crud("/decks", "deck", shape.deckShape, shape.newDeck, shape.deckPatch),
];
