import { load, type Change } from "@/core/change";
import type { EntryShape } from "@/core/api";
import { runId, type MessageId, type RunId } from "@/core/id";
import { nextRedo, nextUndo } from "@/core/ledger";
import { matchingRows } from "@/core/list";
import type { PlanContext } from "@/core/macro";
import { plural } from "../parts/words";
import { get, getIndex } from "./api";
import { checkNarrow, drop, regroup, relist, setFocus } from "./browse";
import { currentPredicate, isListed, maskOf, recountSelection } from "./listed";
import { SendQueue } from "./queue";
import { noteFolders } from "./recent";
import { Settler, type Decision } from "./settle";
import { mailbox, notify, set, view } from "./store";
import { forgetWords } from "./words";

/** Deciding: every change of mail that a person makes begins here. */

/** What plans are made with here, but for the time. */
export const planContext = (): Omit<PlanContext, "now"> => ({
  directory: view().directory,
  macros: view().macros,
  zone: view().home?.person.zone ?? "UTC",
});

const settler = new Settler(mailbox, planContext);

/** More decided rows than this at once are swept away: nobody scrolls past hundreds of them. */
const MOST_KEPT_ROWS = 60;
/** A look at one row costs as much as making a new list costs for so many. */
const LOOK_COSTS = 20;

/** What happened to a message, for its row: where it went, or that it no longer fits. */
function verdictOf(id: MessageId): string {
  const state = mailbox.state(id);
  if (mailbox.leaving.has(id)) return "deleted";
  if (state?.defer) return "→ later";
  const folder = view().directory.folders.find((f) => f.id === state?.folder);
  return folder ? `→ ${folder.path.split("/").at(-1)}` : "done";
}

/**
 * Brings the list up to date after some messages changed: those that no longer match stay as decided rows if
 * the person decided them just now, those that match again become plain rows.
 */
function reflect(touched: ReadonlySet<number>, own: boolean): void {
  // So much of the mailbox changes at once that a new list is cheaper than looking at each row.
  if (touched.size * LOOK_COSTS > mailbox.columns.count) return relist();
  const { decided, listing } = view();
  const matches = currentPredicate();
  const next = new Map(decided);
  let arrives = false;
  const leaving: number[] = [];
  for (const id of touched) {
    const row = mailbox.rowOf(id);
    if (row === undefined) continue;
    mailbox.cursor.row = row;
    const listed = isListed(row);
    if (!mailbox.leaving.has(id) && matches(mailbox.cursor)) {
      next.delete(id);
      arrives ||= !listed;
    } else if (listed) leaving.push(id);
  }
  if (own && leaving.length <= MOST_KEPT_ROWS) for (const id of leaving) next.set(id, verdictOf(id as MessageId));
  const dropped = leaving.filter((id) => !next.has(id));
  set({ decided: next });
  if (arrives) return relist();
  if (dropped.length > 0) return drop(mailbox.rowsOf(dropped));
  // A row just decided stays where it is, also where groups are by the folder it has left.
  const { group } = view();
  if (group !== "none" && (group !== "folder" || leaving.length === 0)) return regroup();
  // Rows that only change how they look need no new list.
  set({ version: view().version + 1, matches: listing.messages - next.size });
  recountSelection();
}

export type RunDecision = Extract<Decision, { kind: "run" }>;

/** The focus goes on to the next message that is not decided; at the end, to the one before. */
export function advance(): void {
  const { listing, focus, decided } = view();
  const { items } = listing;
  const open = (at: number) => items[at] !== undefined && items[at]! >= 0 && !decided.has(mailbox.idAt(items[at]!));
  if (open(focus)) return;
  for (let at = focus + 1; at < items.length; at++) if (open(at)) return setFocus(at);
  for (let at = focus - 1; at >= 0; at--) if (open(at)) return setFocus(at);
}

const queue: () => SendQueue = (() => {
  let made: SendQueue | null = null;
  return () =>
    (made ??= new SendQueue({
      link: (link) => link !== view().link && set({ link }),
      refused: (decision, why) => {
        const touched = settler.refuse(decision.id);
        showLedger();
        reflect(touched, false);
        notify(`Not done: ${why}`, "trouble");
      },
      answered: (decision, answer) => {
        const left = answer.skipped.filter((skip) => skip.reason !== "already-so").length;
        if (left > 0) notify(`${plural(left, "message")} left alone: changed elsewhere or gone.`, "trouble");
        if (decision.kind === "run" && "asks" in answer && answer.asks.length > 0) {
          reflect(settler.refuse(decision.id), false);
          notify("Not done: the macro asks something new. Run it again.", "trouble");
        }
      },
    }));
})();

/** How far back undo reaches by key; further back it is in the ledger. */
const MOST_ENTRIES = 200;

/** Entries from the server, and on top of them what has not been confirmed. */
let confirmed: readonly EntryShape[] = [];

function showLedger(): void {
  const { waiting } = settler;
  const known = new Set(confirmed.map((entry) => entry.id));
  const top = confirmed[0]?.seq ?? 0;
  const extra = waiting
    .filter((decision) => !known.has(decision.id))
    .map((decision, i): EntryShape => ({
      id: decision.id,
      seq: top + 1 + i,
      at: decision.at,
      kind: decision.kind,
      of: decision.kind === "run" ? null : decision.of,
      macro:
        decision.kind === "run"
          ? { id: decision.macro.id ?? null, name: decision.macro.name, steps: [...decision.macro.steps] }
          : { id: null, name: decision.name, steps: [] },
      messages: decision.kind === "run" ? decision.ids.length : 0,
      changed: decision.kind === "run" ? decision.ids.length : 0,
      state: "done",
      skipped: 0,
    }));
  const states = new Map(
    waiting.flatMap((d) => (d.kind === "run" ? [] : [[d.of, d.kind === "undo" ? "undone" : "done"] as const])),
  );
  const all = [...extra.reverse(), ...confirmed].map((entry) => ({
    ...entry,
    state: states.get(entry.id as RunId) ?? entry.state,
  }));
  set({ ledger: all, waiting: waiting.length });
}

export function setConfirmed(entries: readonly EntryShape[]): void {
  confirmed = entries;
  showLedger();
}

function decide(decision: Decision, planned?: Change): Change {
  const change = settler.decide(decision, planned);
  queue().add(decision);
  return change;
}

/** Makes a run in the view and sends it. @returns what it did in the view */
export function decideRun(run: RunDecision, planned: Change): void {
  decide(run, planned);
  noteFolders(planned);
  reflect(new Set(planned.keys()), true);
  showLedger();
}

/** Takes back or does again the run in question: the given one, or the next in line. */
export function takeBack(kind: "undo" | "redo", entry?: EntryShape): void {
  const entries = view().ledger.map((e) => ({ ...e, id: runId(e.id), of: e.of === null ? null : runId(e.of) }));
  const target = entry ?? (kind === "undo" ? nextUndo(entries) : nextRedo(entries));
  if (!target) return notify(kind === "undo" ? "There is nothing to take back." : "There is nothing to do again.");
  const { name } = target.macro;
  const change = decide({
    kind,
    id: runId(crypto.randomUUID()),
    of: runId(target.id),
    name,
    at: new Date().toISOString(),
  });
  const touched = new Set<number>(change.keys());
  reflect(touched, kind === "redo");
  showLedger();
  if (kind === "undo") focusFirstOf(touched);
  notify(
    `${kind === "undo" ? "Took back" : "Did again"}: ${name}${touched.size > 0 ? `, ${plural(touched.size, "message")}` : ""}.`,
  );
}

function focusFirstOf(ids: ReadonlySet<number>): void {
  let first = Infinity;
  for (const id of ids) {
    const row = mailbox.rowOf(id);
    const place = row === undefined ? -1 : view().listing.placeOf(row);
    if (place >= 0 && place < first) first = place;
  }
  if (first === Infinity) return;
  set({ anchor: null });
  setFocus(first);
}

/** Messages that came to be: by an import, a copy, or a copy made again. */
export async function fetchMessages(ids: readonly number[]): Promise<void> {
  const AT_ONCE = 500;
  for (let at = 0; at < ids.length; at += AT_ONCE) {
    const { columns } = await getIndex({ ids: ids.slice(at, at + AT_ONCE).join(",") });
    settler.mergeTruth(() => mailbox.merge(columns));
  }
  forgetWords();
  relist();
}

/** Puts a part of the index under what is on its way. */
export function mergePart(merge: () => void): void {
  settler.mergeTruth(merge);
}

/**
 * Keeps the number of open tasks right as runs make them and take them back. What was read from the server
 * after the write holds it already.
 */
function countTasks(change: Change, seq: number): void {
  const { home } = view();
  if (!home || seq <= home.seq) return;
  let more = 0;
  for (const edits of change.values())
    for (const edit of edits)
      if (edit.kind === "task") more += Number(edit.after !== null) - Number(edit.before !== null);
  set({ home: { ...home, seq, tasks: home.tasks + more } });
}

/** What the server wrote, in order: ours comes back as confirmation, others' as news. */
export async function arrive(data: EntryShape & { change: unknown }): Promise<void> {
  const change = load(data.change);
  const own = settler.waiting.some((decision) => decision.id === data.id);
  arrivals++;
  const touched: Set<number> = settler.arrive(runId(data.id), data.kind, change);
  countTasks(change, data.seq);
  const made: number[] = [];
  const gone = new Set<number>();
  for (const [id, edits] of change)
    for (const edit of edits) {
      if (edit.kind !== "exists") continue;
      if (edit.after) made.push(id);
      else gone.add(id);
    }
  for (const [id, edits] of change) if (edits.some((edit) => edit.kind === "gone" && edit.after)) gone.add(id);
  if (gone.size > 0) {
    mailbox.remove(gone);
    for (const id of gone) mailbox.leaving.delete(id);
  }
  const { change: _change, ...entry } = data;
  // What was taken back is so at once: the next undo must not mean it again. Whether wholly, the ledger tells.
  const state = entry.kind === "undo" ? "undone" : "done";
  const known = confirmed.map((e) => (entry.kind !== "run" && e.id === entry.of ? { ...e, state } : e) as EntryShape);
  setConfirmed([entry, ...known.filter((e) => e.id !== entry.id)].slice(0, MOST_ENTRIES));
  if (made.length > 0) await fetchMessages(made);
  if (gone.size > 0) relist();
  else if (touched.size > 0) reflect(touched, own);
  // Whether a run is wholly or partly taken back is the server's to say.
  if (data.kind !== "run") lookAtLedger();
}

/** Many runs may be taken back one after another: the ledger is read once for those of a moment. */
let arrivals = 0;
let looking: ReturnType<typeof setTimeout> | null = null;
const LOOK_AFTER_MS = 150;

function lookAtLedger(): void {
  looking ??= setTimeout(() => {
    looking = null;
    const before = arrivals;
    get<EntryShape[]>(`/ledger?limit=${MOST_ENTRIES}`).then(
      // What was written while it was read is not in it: it is read once more.
      (read) => (before === arrivals ? setConfirmed(read) : lookAtLedger()),
      () => undefined,
    );
  }, LOOK_AFTER_MS);
}

/** A decision on a described selection, with the messages that the description means now. */
function withIds(decision: Decision): Decision {
  if (decision.kind !== "run" || !decision.described) return decision;
  const { narrow, except = [], through = Infinity } = decision.described;
  const checked = checkNarrow(narrow);
  if (!checked.ok) return decision;
  const left = new Set(except);
  const ids = [...matchingRows(maskOf(checked.test))].map((row) => mailbox.columns.id[row]!);
  return { ...decision, ids: ids.filter((id) => id <= through && !left.has(id)) };
}

/** Decisions of windows that were closed before the server heard of them. */
export async function resume(): Promise<void> {
  for (const decision of await queue().adopt()) decide(withIds(decision));
  showLedger();
  relist();
}
