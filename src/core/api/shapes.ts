import * as z from "zod";
import { SIGNS } from "../deceit";
import { DECKS, LAYERS, PAD_CODES, readSequence } from "../keys";
import { settingsShape } from "./settings";
import { ACTORS, HANDS, READING } from "../ledger";
import { settingsSchema, stepsSchema } from "../macro";
import { ASK_KINDS } from "../macro/step";
import { GROUPINGS, ORDERS } from "../list";
import { COLOURS, ROLES } from "../place";
import { SWIPES } from "../swipe";
import { templateShape } from "./answering";
import { broughtBack, count, longId, shortId, text, time } from "./parts";
import { inPass, passShape } from "./passes";
import { taskShape } from "./tasks";

/** What goes over the HTTP API, both ways. The OpenAPI document is made from these. */

const iso = time;
const id = longId;
const colour = z.enum(COLOURS);
const name = text(80).trim().min(1, "give it a name");
const path = text(200, 1);
const narrow = text(2000);

export const uuidShape = z.uuid();
export const orderShape = z.enum(["oldest", "newest"]);
export const formatShape = z.enum(["mbox", "zip"]);
export type Order = z.infer<typeof orderShape>;

export const addressShape = z.object({ name: z.string(), address: z.string() });

export const messageRowShape = z.object({
  id,
  thread: id,
  from: addressShape,
  to: z.array(addressShape),
  subject: z.string(),
  date: iso,
  size: z.number().int().describe("bytes"),
  folder: z.string().describe("path"),
  read: z.boolean(),
  flag: z.object({ start: iso.nullable(), due: iso.nullable(), note: z.string().nullable() }).nullable(),
  pin: z.boolean(),
  marker: z.string().nullable().describe("letter"),
  labels: z.array(z.string()),
  attachments: z.number().int().describe("how many"),
  account: z.string(),
  preview: z.string(),
  note: z.string().nullable(),
});
export type MessageRow = z.infer<typeof messageRowShape>;

export const messageListShape = z.object({
  total: z.number().int().describe("exact"),
  rows: z.array(messageRowShape),
  after: z.string().nullable().describe("give it back as ?after= for the next page"),
});

export const attachmentShape = z.object({
  index: z.number().int(),
  name: z.string(),
  type: z.string(),
  size: z.number().int(),
  /** For pictures inside the text. */
  contentId: z.string().nullable(),
  inline: z.boolean(),
});

export const messageShape = messageRowShape.extend({
  cc: z.array(addressShape),
  text: z.string().nullable(),
  html: z.string().nullable().describe("as it came: sanitise it before showing"),
  headers: z.array(z.object({ name: z.string(), value: z.string() })),
  files: z.array(attachmentShape),
  source: z
    .enum(["here", "coming", "lost"])
    .describe("coming: only its headers are here, and the rest is on its server still; lost: it can come no more"),
  notes: z.array(z.string()).describe("what was wrong with the message, and how it was mended"),
  threadRows: z.array(messageRowShape),
  tasks: z.array(taskShape).describe("made from it"),
  suspicions: z
    .array(z.object({ sign: z.enum(SIGNS).describe("narrowings know it by this word"), evidence: z.string() }))
    .describe("what about it does not fit"),
  keptUntil: iso.nullable().describe("when trash or junk lets it go; null elsewhere"),
});
export type Message = z.infer<typeof messageShape>;

export const folderShape = z.object({
  id: shortId,
  path,
  role: z.enum(ROLES).nullable(),
  total: z.number().int(),
  unread: z.number().int(),
});
export const labelShape = z.object({ id: shortId, name, colour });
export const markerShape = z.object({
  id,
  letter: z.string(),
  colour,
  meaning: z.string(),
  used: z.boolean().describe("whether setting and stepping through markers offers it"),
});
export const batchShape = z.object({
  id: shortId,
  name,
  narrow,
  order: z.enum(ORDERS),
  group: z.enum(GROUPINGS),
  deck: z
    .literal([...DECKS])
    .nullable()
    .describe("the deck it is worked on with; null for the one that is up"),
});
export type BatchShape = z.infer<typeof batchShape>;
export const macroShape = z
  .object({
    id: shortId,
    name,
    colour,
    steps: stepsSchema,
    settings: settingsSchema,
    uses: z.number().int().describe("how often it was run"),
    usedAt: iso.nullable(),
  })
  .meta({ id: "Macro" });
export type MacroShape = z.infer<typeof macroShape>;

const padShape = z.object({
  layer: z.enum(LAYERS),
  code: z.enum(PAD_CODES),
  macro: shortId,
  off: z.literal(true).optional().describe("kept, but its key does nothing"),
});
const extraShape = z.object({
  keys: z.string().refine((keys) => readSequence(keys) !== null, "keys are one to three chords such as Ctrl+KeyE"),
  macro: shortId,
});
const swipesShape = z.partialRecord(z.enum(SWIPES), shortId);
const MOST_PADS = 30;
export const MOST_EXTRA_KEYS = 100;

export const deckShape = z.object({
  number: z.literal([...DECKS]),
  name,
  pads: z.array(padShape).max(MOST_PADS),
  extra: z.array(extraShape).max(MOST_EXTRA_KEYS),
  swipes: swipesShape.describe("what each of the four swipes runs"),
});

export const newFolder = z.strictObject({ path });
export const newLabel = z.strictObject({ name, colour: colour.default("spruce") });
export const newMarker = z.strictObject({
  letter: z.string().regex(/^\p{Lu}$/u, "a marker is one capital letter"),
  colour: colour.default("amber"),
  meaning: text(60).trim().default(""),
});
export const newNarrowing = z.strictObject({ text: text(2000, 1) });
export const newBatch = z.strictObject({
  name,
  narrow: batchShape.shape.narrow,
  order: batchShape.shape.order.default("oldest"),
  group: batchShape.shape.group.default("none"),
  deck: batchShape.shape.deck.default(null),
});
export const newMacro = z.strictObject({
  name,
  colour: colour.default("spruce"),
  steps: stepsSchema.default([]),
  settings: settingsSchema,
});
export const batchPatch = batchShape
  .omit({ id: true })
  .extend({ position: count.describe("place in the rack"), deleted: broughtBack })
  .partial()
  .strict();
const unmade = z.boolean().describe("what has just been made is taken back while no mail is in it, or made again");
export const folderPatch = z.strictObject({ path, deleted: unmade }).partial();
export const labelPatch = z.strictObject({ name, colour, deleted: unmade }).partial();
export const markerPatch = z
  .strictObject({
    letter: newMarker.shape.letter,
    colour,
    meaning: text(60).trim(),
    used: z.boolean(),
    position: z.number().int().min(0).max(7).describe("place in the order that stepping takes"),
    deleted: broughtBack,
  })
  .partial();
export const macroPatch = z
  .strictObject({
    name,
    colour,
    steps: stepsSchema,
    settings: settingsSchema.unwrap(),
    deleted: z.boolean(),
    position: count.describe("place in the list"),
  })
  .partial();
const freed = { macro: shortId.nullable() };
export const deckPatch = deckShape
  .omit({ number: true })
  .extend({
    change: z
      .strictObject({
        pads: z.array(padShape.extend(freed)).max(MOST_PADS),
        extra: z.array(extraShape.extend(freed)).max(MOST_EXTRA_KEYS),
        swipes: z.partialRecord(z.enum(SWIPES), shortId.nullable()),
      })
      .partial()
      .describe("single keys and swipes, null frees one; all others stay, whoever changed them meanwhile"),
  })
  .partial()
  .strict();

export const newDeck = deckShape.partial({ pads: true, extra: true, swipes: true });

const targetShape = z.union([
  z.strictObject({ ids: z.array(id).max(1_000_000) }),
  z.strictObject({
    narrow,
    order: orderShape.optional(),
    except: z.array(id).max(1_000_000).optional().describe("messages left out"),
    through: z
      .number()
      .int()
      .min(0)
      .optional()
      .describe("only messages with ids up to this: what came in later is not meant"),
  }),
]);
export type RunTarget = z.infer<typeof targetShape>;

/** A message, and three guesses with how sure they are. */
const MOST_SEEN = 7;

export const runRequest = z.strictObject({
  id: z.uuid().describe("made by the client: the same id again returns the first result"),
  macro: z
    .union([
      shortId,
      z.strictObject({
        id: shortId.optional(),
        name: name.default("Unnamed"),
        steps: stepsSchema,
        settings: settingsSchema.unwrap().optional(),
      }),
    ])
    .describe("a stored macro, or steps; with both, the steps are run and the ledger names the macro"),
  target: targetShape,
  answers: z.record(text(200), text(2000)).optional(),
  guesses: z
    .array(z.array(z.number().int().nonnegative()).min(1).max(MOST_SEEN))
    .max(100_000)
    .optional()
    .describe(
      "what the person saw of guesses, by message: [message, folder, percent, folder, percent …]; the others are made here",
    ),
  dry: z.boolean().optional(),
  at: iso.optional().describe("when it was decided, for a run that had to wait; times are counted from it"),
  about: text(200).optional().describe("what it is on, in words for the ledger: a subject, or 307 from Lists"),
  pass: inPass.optional().describe("the pass it was decided in"),
  cause: z.literal(READING).optional().describe("that the messages were looked at, and nothing was decided"),
  by: z.enum(HANDS).optional().describe("with what the person made it, for figures"),
});
export type RunRequest = z.infer<typeof runRequest>;

export const entryShape = z
  .object({
    id: z.uuid(),
    seq: z.number().int(),
    at: iso,
    kind: z.enum(["run", "undo", "redo"]),
    actor: z.enum(ACTORS).describe("who wrote it"),
    cause: z.string().nullable().describe("which rule, account or timer made it; null for the person"),
    of: z.uuid().nullable().describe("for an undo or redo: the run it is about"),
    macro: z.object({ id: shortId.nullable(), name: z.string(), steps: stepsSchema }),
    about: z.string().describe("what it was on, in words"),
    messages: z.number().int(),
    changed: z.number().int(),
    restorable: z.number().int().describe("how many of the cells and things it wrote could still be taken back"),
    state: z.enum(["done", "undone", "partly undone"]),
    skipped: z.number().int().describe("how many messages or cells were left alone"),
  })
  .meta({ id: "Entry" });
export type EntryShape = z.infer<typeof entryShape>;

const skip = z.object({ message: id, step: z.number().int(), reason: z.string() });
const question = z.object({
  id: z.string(),
  step: z.number().int(),
  path: z.string().describe("the step with its branches: 3.else.1"),
  kind: z.enum(ASK_KINDS),
  prompt: z.string(),
  message: id.nullable().describe("the message it is about; null when it is asked once"),
});

export const runAnswer = z.object({
  entry: entryShape.nullable().describe("null while questions are open"),
  changed: z.number().int(),
  skipped: z.array(skip),
  asks: z.array(question),
  waiting: z.array(z.object({ message: id, draft: id })).describe("drafts that the run waits for to be sent"),
});
export type RunAnswer = z.infer<typeof runAnswer>;

const cells = z.record(z.string(), z.unknown());
export const dryAnswer = z.object({
  messages: z.array(z.object({ id, before: cells, after: cells, made: z.array(z.string()) })).describe("the first 200"),
  totals: z.record(z.string(), z.number()),
  skipped: z.array(skip),
  irreversible: z.array(z.string()),
  undoable: z.boolean().describe("every step can be taken back"),
  asks: z.array(question),
  letters: z
    .array(
      z.object({
        message: id,
        goes: z.enum(["outbox", "draft", "owed"]),
        to: z.array(z.string()),
        subject: z.string(),
        text: z.string().nullable().describe("of the first three"),
      }),
    )
    .describe("what it would write, the first 1000"),
});
export type DryAnswer = z.infer<typeof dryAnswer>;

/** What an entry did, message by message. */
export const entryDetail = z.object({
  entry: entryShape,
  changes: z
    .array(z.object({ message: id, subject: z.string(), before: cells, after: cells, made: z.array(z.string()) }))
    .describe("the first 200"),
  also: z.array(z.string()).describe("what it changed beside messages, such as a folder removed"),
  skipped: z.array(z.object({ message: id, step: z.number().int(), cell: z.string(), reason: z.string() })),
});
export type EntryDetail = z.infer<typeof entryDetail>;

export const undoRequest = z.strictObject({ id: z.uuid().optional().describe("makes a repeat harmless") });
export const undoAnswer = z.object({
  entry: entryShape,
  restored: z.number().int().describe("messages"),
  skipped: z.array(z.object({ message: id, cell: z.string(), reason: z.string() })),
});
export type UndoAnswer = z.infer<typeof undoAnswer>;

export const jobShape = z.object({
  id,
  name: z.string(),
  state: z.enum(["receiving", "queued", "running", "done", "failed"]),
  done: z.number().int().describe("bytes"),
  total: z.number().int().describe("bytes"),
  added: z.number().int(),
  doubles: z.number().int().describe("messages that were here already"),
  problems: z.array(z.object({ offset: z.number().int(), reason: z.string() })),
  error: z.string().nullable(),
});
export type JobShape = z.infer<typeof jobShape>;

export const homeShape = z.object({
  person: z.object({
    id,
    token: z.uuid().describe("tells this mailbox from any other"),
    name: z.string(),
    address: z.string(),
    zone: z.string(),
  }),
  folders: z.array(folderShape),
  templates: z.array(templateShape),
  labels: z.array(labelShape),
  markers: z.array(markerShape),
  accounts: z.array(z.object({ id: shortId, name: z.string(), address: z.string() })),
  macros: z.array(macroShape),
  decks: z.array(deckShape),
  batches: z.array(batchShape),
  passes: z.array(passShape).describe("those that are not ended, the newest first"),
  ledger: z.array(entryShape),
  settings: settingsShape,
  tasks: z.number().int().describe("how many are not done"),
  messages: z.number().int(),
  wordsLeft: z.number().int().describe("messages whose words cannot be searched yet"),
  seq: z.number().int().describe("the number of the last write; events continue from it"),
});
export type Home = z.infer<typeof homeShape>;

/** RFC 9457. */
export const problemShape = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number().int(),
  detail: z.string(),
  issues: z.array(z.object({ text: z.string(), from: z.number().int(), to: z.number().int() })).optional(),
});
export type ProblemShape = z.infer<typeof problemShape>;
