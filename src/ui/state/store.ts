import { createStore } from "zustand/vanilla";
import type { Deck, DeckNumber } from "@/core/keys";
import {
  EMPTY_LISTING,
  NONE,
  type Grouping,
  type Listing,
  type ListOrder,
  type Selection,
  type Tallied,
} from "@/core/list";
import type { BatchShape, EntryShape, Home, MacroShape, OutgoingShape, RunTarget } from "@/core/api";
import type { Deed } from "@/core/pass";
import type { LetterKind } from "@/core/letter";
import type { Answers, Done, Plan, Question } from "@/core/macro";
import type { Directory } from "@/core/place";
import { Mailbox } from "./mailbox";
import type { Letter } from "./letters";
import type { SetAside } from "./queue";
import { toldTogether } from "./told-together";

/** Messages as a description, where the whole list was selected. */
type Described = Exclude<RunTarget, { ids: unknown }> | null;

/** What asks the person something over the screen. */
/** What a rule is made from. */
export type RuleFrom = { readonly message: number } | { readonly narrow: string } | { readonly macro: number };

export type Dialog =
  | { readonly kind: "go" }
  | { readonly kind: "run-by-name" }
  | { readonly kind: "keys" }
  | {
      readonly kind: "ask";
      readonly macro: MacroShape;
      readonly ids: readonly number[];
      readonly described: Described;
      readonly questions: readonly Question[];
      /** What has been answered already. */
      readonly answers: Answers;
      /** How many of the messages were chosen; the others belong to their threads. */
      readonly chosen: number;
    }
  | {
      readonly kind: "confirm";
      readonly macro: MacroShape;
      readonly ids: readonly number[];
      readonly described: Described;
      readonly answers: Answers;
      /** How many of the messages were chosen; the others belong to their threads. */
      readonly chosen: number;
      readonly seen: Seen;
    }
  | { readonly kind: "file-all"; readonly macro: MacroShape; readonly ids: readonly number[] }
  | { readonly kind: "select-by" }
  | { readonly kind: "arrange" }
  | { readonly kind: "jump" }
  | { readonly kind: "form" }
  | { readonly kind: "why" }
  | { readonly kind: "rule"; readonly from: RuleFrom }
  | { readonly kind: "aside" }
  /** A batch that is being made of what the list shows, or changed. */
  | { readonly kind: "batch"; readonly batch: BatchShape | null };

/** A plan as it was put before the person. */
export interface Seen {
  readonly plan: Plan;
  readonly at: Date;
  /** The view's version it was made on: on another one it means nothing any more. */
  readonly version: number;
}

export interface Notice {
  readonly tone: "plain" | "trouble";
  readonly text: string;
  /** What one press does about it. */
  readonly action?: { readonly name: string; readonly act: () => void } | undefined;
}

/** What one run decided, where that is many messages. */
export interface Together {
  /** The run's id. */
  readonly key: string;
  /** What was done, as "Archive: 307 from Lists". */
  readonly text: string;
  readonly verdict: string;
  readonly ids: ReadonlySet<number>;
}

/** A letter that is being written in this window. */
export interface Composing {
  /** Of this opening of it: another one begins anew. */
  readonly key: string;
  /** null until the server has begun it. */
  readonly draft: number | null;
  /** null until that is known. */
  readonly kind: LetterKind | null;
  /** The message it answers. */
  readonly answers: number | null;
  /** The run that begins it; null where it begins by itself, or has begun. */
  readonly run: string | null;
  /** What was written before, where it was kept here. */
  readonly resumed: Letter | null;
  /** Drafts of the same run that come after it, and how many they were altogether. */
  readonly next: readonly number[];
  readonly of: number;
  /** What went wrong when it was sent; it is here again because of that. */
  readonly trouble?: string;
}

/** A walk through messages, one at a time. While one is under way the list holds its queue. */
export interface Pass {
  readonly id: string;
  readonly name: string;
  /** What it was begun on. */
  readonly narrow: string;
  readonly order: ListOrder;
  readonly queue: ReadonlySet<number>;
  /** Messages with larger ids have come since it was begun. */
  readonly through: number;
  /** What was decided, as it came; also what was taken back since. */
  readonly deeds: readonly Deed[];
  /** Passed over undecided. */
  readonly skipped: ReadonlySet<number>;
  /** When it was begun or gone on with here, milliseconds since 1970. */
  readonly since: number;
  /** Minutes the person wants to give it. */
  readonly limit: number | null;
  /** Whether nothing is left in front: what it came to is shown. */
  readonly ended: boolean;
  /** Where one goes back to. */
  readonly from: { readonly place: string; readonly conditions: readonly string[]; readonly batch: number | null };
}

export type ReaderPlace = "right" | "below" | "off";

export interface View {
  readonly phase: "loading" | "ready" | "failed";
  /** Why it failed, and what to do. */
  readonly failure: string;
  /** Messages read so far while the index is still coming; null once it is whole. */
  readonly loading: number | null;
  readonly link: "here" | "away";
  /** Why the server stores nothing, where it is there and says so. */
  readonly awayWhy: string | null;
  /** When what is shown was so, milliseconds since 1970, while the server does not answer; else null. */
  readonly asOf: number | null;
  /** Letters that are kept in this browser until the server has them. */
  readonly lettersWaiting: number;
  /** The file of mail that is being sent, how much of it has gone, and how many wait behind it. */
  readonly uploading: { readonly name: string; readonly share: number; readonly waiting: number } | null;
  /** Why files could not be sent, each with its name. */
  readonly uploadTroubles: readonly string[];
  /** A newer version of the app could be loaded. */
  readonly newerVersion: boolean;
  readonly home: Home | null;
  readonly directory: Directory;
  readonly macros: readonly MacroShape[];
  readonly decks: readonly Deck[];
  /** Rises with every change of what the mailbox holds. */
  readonly version: number;
  /** Rises with guesses that came, and with what filing has taught. */
  readonly guessed: number;
  readonly learned: number;
  /** The place, and the conditions narrowed by, each as it was written. */
  readonly place: string;
  readonly conditions: readonly string[];
  readonly narrowing: boolean;
  /** A condition that is being typed: the list shows what it would leave. */
  readonly typing: string;
  /** The saved batch that is open; null for any other place. */
  readonly batch: number | null;
  readonly order: ListOrder;
  readonly group: Grouping;
  /** Keys of groups of which only the head is shown. */
  readonly foldedGroups: ReadonlySet<string>;
  readonly listing: Listing;
  /** How many messages match, folded groups included. */
  readonly matches: number;
  /** Whether the server is being asked for words that the expression looks for. */
  readonly searching: boolean;
  /** Whether the expression looks for words that only the server has. */
  readonly asksWords: boolean;
  /** Place in the list; -1 when it is empty. */
  readonly focus: number;
  /** The message the focus is on; rows are numbered anew when messages come, ids are not. */
  readonly focusId: number | null;
  /** The group whose head the focus is on, by its key. */
  readonly focusGroup: string | null;
  /** Where a range being extended began; null when none is. */
  readonly anchor: number | null;
  readonly selection: Selection;
  /** How many messages are selected. */
  readonly selected: number;
  /** Decided messages that stay in the list until they are settled, with the verdict. */
  readonly decided: ReadonlyMap<number, string>;
  /** Decided messages too many to stay as rows of their own: those of a run stand under one line. */
  readonly together: readonly Together[];
  /** Messages a key could do nothing for, with the reason, until something is done about them. */
  readonly notDone: ReadonlyMap<number, string>;
  readonly pass: Pass | null;
  readonly opened: boolean;
  readonly readerPlace: ReaderPlace;
  /** What is looked for in the open message; null while nothing is. */
  readonly find: string | null;
  /** One of the sizes of state/look. */
  readonly textSize: number;
  /** Everything that is shown with a count, counted a moment after each change. */
  /** Null until the whole index is there to be counted. */
  readonly tally: Tallied | null;
  readonly deck: DeckNumber;
  readonly peek: DeckNumber | null;
  readonly folded: boolean;
  readonly pressed: string | null;
  readonly typed: readonly string[];
  readonly ledger: readonly EntryShape[];
  /** Of it, what the server has confirmed. */
  readonly confirmed: readonly EntryShape[];
  /** The run that marked as read what the person has just opened: undo means it until another key is pressed. */
  readonly lastReading: string | null;
  /** How many entries came as events; whether the ledger is about to be read anew. */
  readonly arrivals: number;
  readonly readsLedger: boolean;
  /** Runs of which nothing could be taken back when that was tried, and those of which that was said. */
  readonly stuck: ReadonlySet<string>;
  readonly saidPassed: ReadonlySet<string>;
  /** Decisions that could not be done. */
  readonly aside: readonly SetAside[];
  readonly waiting: number;
  readonly lastMacro: number | null;
  readonly dialog: Dialog | null;
  readonly composing: Composing | null;
  /** What is on its way, by message. */
  readonly outgoing: ReadonlyMap<number, OutgoingShape>;
  /** The macro whose effect is shown while its key is held with Alt. */
  readonly foreseen: MacroShape | null;
  /** What was done since a recording began; null when none runs. */
  readonly recording: readonly Done[] | null;
  /** The macro the workshop shows; null for the first one. */
  readonly openMacro: number | null;
  /** The message whose history the ledger shows; null for all. */
  readonly ledgerMessage: number | null;
  /** The macro whose runs it shows when it is opened. */
  readonly ledgerMacro: number | null;
  readonly notice: Notice | null;
  /** The rack, on screens too narrow to show it beside the list. */
  readonly rackOpen: boolean;
}

const NOTHING: View = {
  phase: "loading",
  failure: "",
  loading: 0,
  link: "here",
  awayWhy: null,
  asOf: null,
  lettersWaiting: 0,
  uploading: null,
  uploadTroubles: [],
  newerVersion: false,
  home: null,
  directory: { folders: [], labels: [], markers: [] },
  macros: [],
  decks: [],
  version: 0,
  guessed: 0,
  learned: 0,
  place: "",
  conditions: [],
  narrowing: false,
  typing: "",
  batch: null,
  order: "newest",
  group: "none",
  foldedGroups: new Set(),
  listing: EMPTY_LISTING,
  matches: 0,
  searching: false,
  asksWords: false,
  focus: -1,
  focusId: null,
  focusGroup: null,
  anchor: null,
  selection: NONE,
  selected: 0,
  decided: new Map(),
  together: [],
  notDone: new Map(),
  pass: null,
  opened: false,
  readerPlace: "right",
  textSize: 3,
  find: null,
  tally: null,
  deck: 1,
  peek: null,
  folded: false,
  pressed: null,
  typed: [],
  ledger: [],
  confirmed: [],
  lastReading: null,
  arrivals: 0,
  readsLedger: false,
  stuck: new Set(),
  saidPassed: new Set(),
  aside: [],
  waiting: 0,
  lastMacro: null,
  dialog: null,
  composing: null,
  outgoing: new Map(),
  foreseen: null,
  recording: null,
  openMacro: null,
  ledgerMessage: null,
  ledgerMacro: null,
  notice: null,
  rackOpen: false,
};

/** The window's one view, and the mailbox it shows. What changes it is in the other files of this folder. */
export const useView = toldTogether(createStore<View>()(() => NOTHING));
export const view = (): View => useView.getState();
export const set = (change: Partial<View>): void => {
  const now = view();
  const differs = (Object.keys(change) as (keyof View)[]).some((key) => !Object.is(change[key], now[key]));
  if (differs) useView.setState(change);
};
/** Does something of many changes, of which those who look at the view are told once, when all are made. */
export const { asOne } = useView;
export const mailbox = new Mailbox();

export const notify = (text: string, tone: Notice["tone"] = "plain", action?: Notice["action"]): void =>
  set({ notice: { text, tone, action } });
