import * as z from "zod";
import { docSchema, LETTER_KINDS } from "../letter";
import { broughtBack, longId, shortId, text, time } from "./parts";

/** What is written and sent: drafts, what is on its way, templates, identities, contacts. */

const person = z.strictObject({ name: text(200), address: text(320) });
const people = z.array(person).max(1000);
const body = docSchema;

export const draftFileShape = z.object({
  id: shortId,
  name: z.string(),
  type: z.string(),
  size: z.number().int().describe("bytes"),
  cid: z.string().nullable().describe("of a picture in the quoted original: how that names it"),
});
export type DraftFile = z.infer<typeof draftFileShape>;

export const draftShape = z
  .object({
    id: longId.describe("of the message, which a draft is"),
    kind: z.enum(LETTER_KINDS),
    answers: longId.nullable().describe("the message it answers or forwards"),
    sender: person,
    to: people,
    cc: people,
    bcc: people,
    subject: z.string(),
    body,
    plain: z.boolean().describe("sent as plain text alone"),
    list: z.string().describe("the list the answered message came from"),
    sendAt: time.nullable().describe("when it is to be sent; null for at once, after it was held back"),
    sent: z.string().nullable().describe("path of the folder its copy goes to; null for Sent"),
    sentToo: z.boolean().describe("Sent keeps a copy beside that one"),
    version: z.number().int().describe("give it back on saving: who saves on an older one is refused"),
    files: z.array(draftFileShape),
    labels: z.array(z.string()).describe("names of those on it; they are put on it as on any message"),
    waits: z.object({ run: z.uuid(), macro: z.string() }).nullable().describe("the run that waits for it to be sent"),
  })
  .meta({ id: "Draft" });
export type DraftShape = z.infer<typeof draftShape>;

export const newDraft = z.strictObject({
  id: z.uuid().optional().describe("made by the client: the same id again answers with the draft that was begun"),
  run: z.uuid().optional().describe("a run: where it has begun a draft for that message, that one is the answer"),
  kind: z.enum(LETTER_KINDS).default("new"),
  answers: longId.nullable().default(null),
  to: people.optional(),
  cc: people.optional(),
  bcc: people.optional(),
  subject: text(2000).optional(),
  body: body.optional(),
});
export const draftPatch = z.strictObject({
  version: z.number().int(),
  sender: person.optional(),
  to: people.optional(),
  cc: people.optional(),
  bcc: people.optional(),
  subject: text(2000).optional(),
  body: body.optional(),
  plain: z.boolean().optional(),
  sendAt: time.nullable().optional(),
  sent: text(200).nullable().optional(),
  sentToo: z.boolean().optional(),
  left: z.boolean().optional().describe("nobody goes on writing now: its source is made"),
});
export type DraftPatch = z.infer<typeof draftPatch>;

export const sendRequest = z.strictObject({
  id: z.uuid().describe("made by the client: the same id again returns the first result"),
  version: z.number().int().nullable().default(null),
  afterwards: shortId.nullable().default(null).describe("a macro that is run on the message it answers"),
});

export const outgoingShape = z.object({
  message: longId,
  subject: z.string(),
  state: z.enum(["waiting", "sending", "later", "refused", "unsure", "sent"]),
  at: time.describe("when it leaves, or is tried again"),
  said: z.string().nullable().describe("the last words of the server about it"),
  recipients: z.array(
    z.object({
      address: z.string(),
      state: z.enum(["waiting", "accepted", "refused"]),
      said: z.string().nullable(),
    }),
  ),
  run: z
    .uuid()
    .nullable()
    .describe("the run that put it here, which is taken back to call it back; null where that is long ago"),
});
export type OutgoingShape = z.infer<typeof outgoingShape>;
export const outgoingPatch = z.strictObject({
  do: z
    .enum(["now", "again", "it went", "call back", "seen"])
    .describe("send it now; try again; note that it went; back to drafts; no more about it"),
  at: time.optional().describe("with now: at that time instead"),
});

const name = text(80).trim().min(1, "give it a name");
export const templateShape = z.object({ id: shortId, name, folder: text(80), subject: text(2000), body });
export type TemplateShape = z.infer<typeof templateShape>;
export const newTemplate = z.strictObject({
  name,
  folder: text(80).trim().default(""),
  subject: text(2000).default(""),
  body,
});
export const templatePatch = z
  .strictObject({ name, folder: text(80).trim(), subject: text(2000), body, deleted: broughtBack })
  .partial();

export const identityShape = z.object({
  id: shortId,
  name: text(200),
  address: text(320),
  signature: text(5000),
  position: z.number().int(),
});
export type IdentityShape = z.infer<typeof identityShape>;
export const newIdentity = z.strictObject({
  name: text(200).trim(),
  address: text(320).trim().min(3, "write an address"),
  signature: text(5000).default(""),
});
export const identityPatch = z
  .strictObject({
    name: text(200).trim(),
    address: text(320).trim().min(3, "write an address"),
    signature: text(5000),
    position: z.number().int().min(0).max(1000).describe("place in the order; the first is the usual one"),
    deleted: broughtBack,
  })
  .partial();

export const contactShape = z.object({
  address: z.string().describe("in lower case"),
  name: z.string(),
  note: z.string(),
  times: z.number().int().describe("how often it was written to"),
  last: time.nullable(),
});
export type ContactShape = z.infer<typeof contactShape>;
export const newContact = z.strictObject({
  address: text(320).trim(),
  name: text(200).trim(),
  note: text(5000).default(""),
});
export const contactPatch = z
  .strictObject({ name: text(200).trim(), note: text(5000), into: text(320).describe("merges it into that one") })
  .partial();

const count = z.number().int();
/** What went to and fro between the person and somebody; drafts and what has not gone are left out. */
export const betweenShape = z.object({
  address: z.string(),
  name: z.string().describe("as they signed last; empty where they have not"),
  months: z
    .array(z.object({ month: z.string().describe("2026-11"), theirs: count, mine: count }))
    .describe("newest first; those without mail are left out"),
  last: z.object({ theirs: time.nullable(), mine: time.nullable() }),
  answered: z
    .object({ theirs: time.nullable(), mine: time.nullable() })
    .describe("the last message in a thread that the other one had written in before"),
  owed: z
    .object({ count, since: time.nullable().describe("the oldest of them") })
    .describe("what waits for an answer to them"),
  awaited: z
    .object({ count, until: time.nullable().describe("the first that comes due") })
    .describe("what they are to answer"),
});
export type Between = z.infer<typeof betweenShape>;

export const cardsAnswer = z.object({
  kept: count.describe("addresses that were no contacts before"),
  changed: count.describe("contacts whose name was empty or whose note grew"),
  same: count.describe("contacts that were so already"),
  groups: count.describe("groups that were made or have new members"),
  left: z.array(z.object({ name: z.string(), why: z.string() })).describe("cards of nobody, the first hundred"),
  leftCount: count,
});
export type CardsAnswer = z.infer<typeof cardsAnswer>;

export const groupShape = z.object({ id: shortId, name, members: z.array(z.string()) });
export type GroupShape = z.infer<typeof groupShape>;
export const newGroup = z.strictObject({ name, members: z.array(text(320)).max(1000).default([]) });
export const groupPatch = z
  .strictObject({ name, members: z.array(text(320)).max(1000), deleted: broughtBack })
  .partial();

export const correspondentShape = z.object({
  address: z.string(),
  name: z.string(),
  times: z.number().int(),
  last: time.nullable(),
  contact: z.boolean(),
});
export type CorrespondentShape = z.infer<typeof correspondentShape>;
export const correspondentsShape = z.object({
  people: z.array(correspondentShape).describe("those written to most and last first"),
  groups: z.array(groupShape),
});
