import { withLabel, type MessageEdit, type MessageState } from "../change";
import type { FolderId, LabelId, MarkerId } from "../id";
import type { Directory } from "../place";
import { isMarkerKeyword, keywordOf, markerKeyword } from "./keyword";

/**
 * Mail that is in two places at once: here, and on a server. What both sides agreed on last is the base; what differs
 * from it here is a wish, what differs from it there is news. Nothing here knows of connections or of databases.
 */

export { isMarkerKeyword, keywordOf, LONGEST_KEYWORD, markerKeyword, nameOfKeyword } from "./keyword";

/** What of a message's state a server keeps too. */
export interface Shared {
  readonly folder: FolderId;
  readonly read: boolean;
  readonly flagged: boolean;
  /** Once answered, always answered. */
  readonly answered: boolean;
  /** Keywords of labels and of the marker, sorted, none twice. */
  readonly words: readonly string[];
}

/** Which keyword stands for which label and marker; empty where the server keeps none. */
export interface Words {
  readonly labels: ReadonlyMap<LabelId, string>;
  readonly markers: ReadonlyMap<MarkerId, string>;
}

export const NO_WORDS: Words = { labels: new Map(), markers: new Map() };

/** Two labels whose keywords differ in case only would be one on a server: the first of them has it. */
export function wordsOf({ labels, markers }: Directory): Words {
  const taken = new Set<string>();
  const free = (word: string | null): word is string => {
    const folded = word?.toLowerCase();
    if (folded === undefined || taken.has(folded)) return false;
    taken.add(folded);
    return true;
  };
  return {
    markers: new Map(markers.map(({ id, letter }) => [id, markerKeyword(letter)] as const).filter(([, w]) => free(w))),
    labels: new Map(
      labels.flatMap(({ id, name }) => {
        const word = keywordOf(name);
        return free(word) ? [[id, word] as const] : [];
      }),
    ),
  };
}

const sorted = (words: Iterable<string>): string[] => [...new Set(words)].sort();

/** What of a state a server would keep. @param answered whether the message has been answered */
export function sharedOf(state: MessageState, answered: boolean, { labels, markers }: Words): Shared {
  const own = state.labels.flatMap((id) => labels.get(id) ?? []);
  const marker = state.marker === null ? undefined : markers.get(state.marker);
  return {
    folder: state.folder,
    read: state.read,
    flagged: state.flag !== null,
    answered,
    words: sorted(marker === undefined ? own : [...own, marker]),
  };
}

/** Flags as a server names them (RFC 9051, section 2.3.2), of those that mean something here. */
export function flagsSeen(flags: Iterable<string>, words: Words): Omit<Shared, "folder"> {
  const known = new Map([...words.labels.values(), ...words.markers.values()].map((w) => [w.toLowerCase(), w]));
  const folded = new Set([...flags].map((flag) => flag.toLowerCase()));
  return {
    read: folded.has("\\seen"),
    flagged: folded.has("\\flagged"),
    answered: folded.has("\\answered"),
    words: sorted([...folded].flatMap((flag) => known.get(flag) ?? [])),
  };
}

/** What is to be done on the server, so that it has what is here. */
export interface Wish {
  /** The message is no more. */
  readonly gone: boolean;
  /** null for where it is. */
  readonly folder: FolderId | null;
  /** Flags and keywords, as a server names them. */
  readonly add: readonly string[];
  readonly remove: readonly string[];
}

const flagsOf = ({ read, flagged, answered, words }: Omit<Shared, "folder">): string[] => [
  ...(read ? ["\\Seen"] : []),
  ...(flagged ? ["\\Flagged"] : []),
  ...(answered ? ["\\Answered"] : []),
  ...words,
];

/** @param ours null for a message that is no more @returns null where the server has what is here */
export function wishOf(ours: Shared | null, base: Shared): Wish | null {
  if (ours === null) return { gone: true, folder: null, add: [], remove: [] };
  const [has, had] = [flagsOf(ours), flagsOf(base)];
  const add = has.filter((flag) => !had.includes(flag));
  const remove = had.filter((flag) => !has.includes(flag) && flag !== "\\Answered");
  const folder = ours.folder === base.folder ? null : ours.folder;
  return folder === null && add.length + remove.length === 0 ? null : { gone: false, folder, add, remove };
}

/** Wishes that are one command: equal ones have equal keys. */
export const wishKey = ({ gone, folder, add, remove }: Wish): string =>
  `${gone ? "gone" : (folder ?? "")}\n${add.join(" ")}\n${remove.join(" ")}`;

/** What is so after both sides are known. */
export interface Met {
  /** What is to be so here. */
  readonly ours: Shared;
  /** What both agree on from now on, which is what the server has. */
  readonly base: Shared;
  /** Whether both had decided differently, and what was decided here stands. */
  readonly won: boolean;
}

const meet = <T>(base: T, theirs: T, ours: T): T => (theirs === base || ours !== base ? ours : theirs);

/** A message has one marker: what was set here stands, else what was set there. */
function oneMarker(words: readonly string[], base: Shared, ours: Shared): string[] {
  const markers = words.filter(isMarkerKeyword);
  if (markers.length < 2) return sorted(words);
  const fresh = (list: readonly string[]) => markers.find((m) => list.includes(m) && !base.words.includes(m));
  const kept = fresh(ours.words) ?? fresh(markers) ?? markers[0];
  return sorted(words.filter((word) => !isMarkerKeyword(word) || word === kept));
}

/** Brings together what changed on either side since the base. */
export function inbound(base: Shared, theirs: Shared, ours: Shared): Met {
  const all = sorted([...base.words, ...theirs.words, ...ours.words]);
  const words = all.filter((word) =>
    meet(base.words.includes(word), theirs.words.includes(word), ours.words.includes(word)),
  );
  const folder = meet(base.folder, theirs.folder, ours.folder);
  const next: Shared = {
    folder,
    read: meet(base.read, theirs.read, ours.read),
    flagged: meet(base.flagged, theirs.flagged, ours.flagged),
    answered: theirs.answered || ours.answered,
    words: oneMarker(words, base, ours),
  };
  const won = theirs.folder !== base.folder && ours.folder !== base.folder && theirs.folder !== ours.folder;
  return { ours: next, base: theirs, won };
}

/** The edits that make a state hold what is to be so; labels and markers without a keyword stay as they are. */
export function editsTo(state: MessageState, next: Shared, words: Words): MessageEdit[] {
  const edits: MessageEdit[] = [];
  if (state.folder !== next.folder) edits.push({ kind: "folder", before: state.folder, after: next.folder });
  if (state.read !== next.read) edits.push({ kind: "read", before: state.read, after: next.read });
  if ((state.flag !== null) !== next.flagged)
    edits.push({
      kind: "flag",
      before: state.flag,
      after: next.flagged ? { start: null, due: null, note: null } : null,
    });
  let labels = state.labels;
  for (const [label, word] of words.labels) {
    const on = next.words.includes(word);
    if (labels.includes(label) !== on) edits.push({ kind: "label", label, before: !on, after: on });
    labels = withLabel(labels, label, on);
  }
  const isKept = state.marker === null || words.markers.has(state.marker);
  const marker = [...words.markers].find(([, word]) => next.words.includes(word))?.[0] ?? null;
  if (isKept && state.marker !== marker) edits.push({ kind: "marker", before: state.marker, after: marker });
  return edits;
}
