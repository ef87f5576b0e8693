import { isDeckNumber, type Command, type FrameAction } from "@/core/keys";
import { changeOrder, foldAllGroups, foldGroup, settle, widen } from "../state/browse";
import { keepPlace } from "../state/arranged";
import { composeNew, isDraft, isSending, openDraft, recallLetter } from "../state/compose";
import { openFocused } from "../state/reading";
import { clearTicks, moveBy, moveTo, selectBy, tick, tickAll } from "../state/select";
import { changeTextSize, moveReader } from "../state/look";
import { redoLast, undoLast } from "../state/edits";
import { orderPass, passNext, togglePass } from "../state/pass";
import { endPractice, practise } from "../state/practice";
import { lookForMail } from "../state/look-for-mail";
import { copyAsText, copyThreadAsText } from "../state/pass-on";
import { again, runMacro } from "../state/run";
import { asOne, notify, set, view } from "../state/store";

/** What the bench's parts do for keys: the list knows its page, the reader how to scroll. */
export interface Surfaces {
  pageRows: () => number;
  /** Scrolls the message a page; false when it is at its end already. */
  readPage: (direction: 1 | -1) => boolean;
  threadStep: (direction: 1 | -1) => void;
  print: () => void;
  /** Whether an open message stands in the place of the list. */
  coversList: () => boolean;
  /** Closes what shows one message alone; false where that is not so. */
  close: () => boolean;
}

const surfaces: Surfaces = {
  pageRows: () => 10,
  readPage: () => false,
  threadStep: () => undefined,
  print: () => undefined,
  coversList: () => false,
  close: () => false,
};
export const provide = (parts: Partial<Surfaces>): void => void Object.assign(surfaces, parts);

/** Steps of held keys are added up and made once a frame, so that the list never falls behind. */
let steps = 0;
let frame = 0;
function step(by: number, extend: boolean, repeat: boolean): void {
  if (!repeat || extend) return moveBy(by, extend);
  steps += by;
  frame ||= requestAnimationFrame(() => {
    frame = 0;
    const now = steps;
    steps = 0;
    moveBy(now, false);
  });
}

const page = () => Math.max(1, surfaces.pageRows() - 1);
const half = () => Math.max(1, Math.floor(surfaces.pageRows() / 2));

function read(): void {
  // Who pages through a message has opened it.
  if (!view().opened && !surfaces.coversList()) openFocused();
  if (!surfaces.readPage(1)) moveBy(1, false);
}

/** The focused message in a window of its own. */
function openOwnWindow(): void {
  const { focusId } = view();
  if (focusId === null) return notify("Put the focus on a message first.");
  // It goes on from here, as this window would.
  keepPlace();
  const opened = window.open(`/message/${focusId}`, `message-${focusId}`, "popup,width=860,height=900");
  if (!opened) notify("The browser kept the window from opening. Allow it for this address.", "trouble");
}

/** One thing at a time, the nearest first: what lies over the list, what is ticked, what was said. */
function escape(): void {
  if (surfaces.close()) return;
  if (view().rackOpen) set({ rackOpen: false });
  else if (view().opened && surfaces.coversList()) set({ opened: false });
  else if (!clearTicks()) set({ notice: null, opened: false });
}

/** What is being sent is what undo means, also where the server has not said yet that it is on its way. */
export function undo(): void {
  if (isSending()) void recallLetter().then((isOpen) => (isOpen ? undefined : undoLast()));
  else void undoLast();
}

const FRAME: Record<FrameAction, (repeat: boolean) => void> = {
  next: (repeat) => void (passNext() || step(1, false, repeat)),
  previous: (repeat) => step(-1, false, repeat),
  first: () => moveTo(0, false),
  last: () => moveTo(Infinity, false),
  pageDown: (repeat) => step(page(), false, repeat),
  pageUp: (repeat) => step(-page(), false, repeat),
  halfDown: (repeat) => step(half(), false, repeat),
  halfUp: (repeat) => step(-half(), false, repeat),
  extendNext: (repeat) => step(1, true, repeat),
  extendPrevious: (repeat) => step(-1, true, repeat),
  extendFirst: () => moveTo(0, true),
  extendLast: () => moveTo(Infinity, true),
  extendPageDown: (repeat) => step(page(), true, repeat),
  extendPageUp: (repeat) => step(-page(), true, repeat),
  tick: () => tick(),
  tickAll,
  selectBy: () => set({ dialog: { kind: "select-by" } }),
  selectThread: () => selectBy("thread"),
  selectUnread: () => selectBy("unread"),
  open: () => {
    // On the head of a group, opening it is unfolding it.
    const { focusGroup, focusId } = view();
    if (focusGroup !== null) foldGroup();
    else if (focusId !== null && isDraft(focusId)) openDraft(focusId);
    else openFocused();
  },
  find: () => {
    if (view().focusId === null) notify("Put the focus on a message first.");
    else set({ find: view().find ?? "", opened: true });
  },
  ownWindow: openOwnWindow,
  print: () => surfaces.print(),
  copyText: copyAsText,
  copyThread: copyThreadAsText,
  largerText: () => changeTextSize(1),
  smallerText: () => changeTextSize(-1),
  readerPlace: moveReader,
  why: () => set({ dialog: { kind: "why" } }),
  // Ticks survive reading: only Esc clears them.
  back: () => surfaces.close() || (view().opened ? set({ opened: false }) : set({ rackOpen: false })),
  escape,
  nextInThread: () => surfaces.threadStep(1),
  previousInThread: () => surfaces.threadStep(-1),
  read,
  readBack: () => void surfaces.readPage(-1),
  narrow: () => set(view().pass ? { dialog: { kind: "jump" } } : { narrowing: true }),
  narrowForm: () => set({ dialog: { kind: "form" } }),
  widen: () => widen(),
  pass: togglePass,
  goTo: () => set({ dialog: { kind: "go" } }),
  runByName: () => set({ dialog: { kind: "run-by-name" } }),
  again,
  compose: () => void composeNew(),
  lookForMail: () => void lookForMail(),
  undo,
  practise: () => void practise(),
  endPractice: () => void endPractice(),
  redo: () => void redoLast(),
  foldDeck: () => set({ folded: !view().folded }),
  order: () => {
    const { pass } = view();
    if (pass) orderPass(pass.order === "oldest" ? "newest" : "oldest");
    else changeOrder();
  },
  arrange: () => set({ dialog: { kind: "arrange" } }),
  fold: () => void (foldGroup() || notify("The list is not grouped.")),
  foldAll: foldAllGroups,
  saveBatch: () => {
    // What a batch shows as it was saved is that batch: it is opened for changing.
    const { home, batch, conditions } = view();
    const open = conditions.length === 0 ? home?.batches.find((one) => one.id === batch) : undefined;
    set({ dialog: { kind: "batch", batch: open ?? null } });
  },
  settle,
  keys: () => set({ dialog: { kind: "keys" } }),
};

/** Frame actions a held key repeats; any other, and every macro, happens once however long it is held. */
const REPEATS = new Set<FrameAction>([
  "next",
  "previous",
  "pageDown",
  "pageUp",
  "halfDown",
  "halfUp",
  "extendNext",
  "extendPrevious",
  "extendPageDown",
  "extendPageUp",
  "read",
  "readBack",
]);

let pressedTimer: ReturnType<typeof setTimeout> | undefined;
/** How long a pad shows that it was pressed. */
const PRESSED_MS = 160;

export function showPressed(macro: number): void {
  set({ pressed: String(macro) });
  clearTimeout(pressedTimer);
  pressedTimer = setTimeout(() => set({ pressed: null }), PRESSED_MS);
}

/** What a key does; who looks at the view hears of it once. */
export const perform = (command: Command, repeat: boolean): void => asOne(() => act(command, repeat));

function act(command: Command, repeat: boolean): void {
  if (view().lastReading !== null && !(command.kind === "frame" && command.action === "undo"))
    set({ lastReading: null });
  if (command.kind === "frame") {
    if (!repeat || REPEATS.has(command.action)) FRAME[command.action](repeat);
    return;
  }
  if (command.kind === "deck") return repeat ? undefined : set({ deck: command.deck });
  const macro = view().macros.find((m) => m.id === command.macro);
  // A key that is held by mistake decides about one message.
  if (!macro || (repeat && !macro.settings.held)) return;
  showPressed(macro.id);
  runMacro(macro);
}

/** A key of the deck that nothing is on says so, and how that is changed. */
export const sayEmpty = (code: string): void =>
  notify(`Nothing is on ${code.replace("Key", "")} in deck ${view().deck}. The workshop puts a macro there.`);

export const foreseeMacro = (id: number | null): void =>
  set({ foreseen: id === null ? null : (view().macros.find((m) => m.id === id) ?? null) });

export const peek = (deck: number | null): void => set({ peek: deck !== null && isDeckNumber(deck) ? deck : null });
