import { create } from "zustand";
import type { Deck, DeckNumber } from "@/core/keys";
import type { EntryShape, Home, MacroShape } from "@/core/api";
import type { Answers, Done, Plan, Question } from "@/core/macro";
import type { Directory } from "@/core/place";
import type { Order } from "./list";
import { Mailbox } from "./mailbox";

/** What asks the person something over the screen. */
export type Dialog =
  | { readonly kind: "go" }
  | { readonly kind: "run-by-name" }
  | { readonly kind: "keys" }
  | {
      readonly kind: "ask";
      readonly macro: MacroShape;
      readonly ids: readonly number[];
      readonly questions: readonly Question[];
      /** What has been answered already. */
      readonly answers: Answers;
    }
  | {
      readonly kind: "confirm";
      readonly macro: MacroShape;
      readonly ids: readonly number[];
      readonly answers: Answers;
      readonly planned: Plan;
    };

export type Notice = { readonly tone: "plain" | "trouble"; readonly text: string };

export interface View {
  readonly phase: "loading" | "ready" | "failed";
  /** Why it failed, and what to do. */
  readonly failure: string;
  /** Messages read so far while the index is still coming; null once it is whole. */
  readonly loading: number | null;
  readonly link: "here" | "away";
  readonly home: Home | null;
  readonly directory: Directory;
  readonly macros: readonly MacroShape[];
  readonly decks: readonly Deck[];
  /** Rises with every change of what the mailbox holds. */
  readonly version: number;
  /** The place, and the conditions narrowed by, each as it was written. */
  readonly place: string;
  readonly conditions: readonly string[];
  readonly narrowing: boolean;
  readonly order: Order;
  /** Row numbers of the mailbox, in the order of the list. */
  readonly rows: Int32Array;
  readonly matches: number;
  /** Place in the list; -1 when it is empty. */
  readonly focus: number;
  /** The message the focus is on; rows are numbered anew when messages come, ids are not. */
  readonly focusId: number | null;
  /** Where a range being extended began; null when none is. */
  readonly anchor: number | null;
  /** Ids of ticked messages. */
  readonly ticked: ReadonlySet<number>;
  /** Decided messages that stay in the list until swept, with the verdict. */
  readonly decided: ReadonlyMap<number, string>;
  readonly opened: boolean;
  readonly deck: DeckNumber;
  readonly peek: DeckNumber | null;
  readonly folded: boolean;
  readonly pressed: string | null;
  readonly typed: readonly string[];
  readonly ledger: readonly EntryShape[];
  readonly waiting: number;
  readonly lastMacro: number | null;
  readonly dialog: Dialog | null;
  /** The macro whose effect is shown while its key is held with Alt. */
  readonly foreseen: MacroShape | null;
  /** What was done since a recording began; null when none runs. */
  readonly recording: readonly Done[] | null;
  /** The macro the workshop shows; null for the first one. */
  readonly openMacro: number | null;
  /** The message whose history the ledger shows; null for all. */
  readonly ledgerMessage: number | null;
  readonly notice: Notice | null;
  /** The rack, on screens too narrow to show it beside the list. */
  readonly rackOpen: boolean;
}

const NOTHING: View = {
  phase: "loading",
  failure: "",
  loading: 0,
  link: "here",
  home: null,
  directory: { folders: [], labels: [], markers: [] },
  macros: [],
  decks: [],
  version: 0,
  place: "",
  conditions: [],
  narrowing: false,
  order: "newest",
  rows: new Int32Array(),
  matches: 0,
  focus: -1,
  focusId: null,
  anchor: null,
  ticked: new Set(),
  decided: new Map(),
  opened: false,
  deck: 1,
  peek: null,
  folded: false,
  pressed: null,
  typed: [],
  ledger: [],
  waiting: 0,
  lastMacro: null,
  dialog: null,
  foreseen: null,
  recording: null,
  openMacro: null,
  ledgerMessage: null,
  notice: null,
  rackOpen: false,
};

/** The window's one view, and the mailbox it shows. What changes it is in the other files of this folder. */
export const useView = create<View>()(() => NOTHING);
export const view = (): View => useView.getState();
export const set = (change: Partial<View>): void => useView.setState(change);
export const mailbox = new Mailbox();

export const notify = (text: string, tone: Notice["tone"] = "plain"): void => set({ notice: { text, tone } });
