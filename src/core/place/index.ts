import type { FolderId, LabelId, MarkerId } from "../id";
import type { Colour } from "./colour";

/** Where mail can be and what can be put on it, by name: folders as paths, labels, markers as letters. */

export const ROLES = ["inbox", "archive", "trash", "junk", "sent", "drafts", "outbox", "aside"] as const;
export type Role = (typeof ROLES)[number];

export interface Folder {
  readonly id: FolderId;
  /** Segments joined by "/": "Bookings/Groups". */
  readonly path: string;
  /** The one folder that archiving, trashing and so on use. */
  readonly role: Role | null;
}

export interface Label {
  readonly id: LabelId;
  readonly name: string;
  readonly colour: Colour;
}

export interface Marker {
  readonly id: MarkerId;
  /** One upper-case letter. */
  readonly letter: string;
  readonly colour: Colour;
  readonly meaning: string;
  /** Whether setting and stepping through markers offers it; one that is not keeps its messages. */
  readonly used: boolean;
}

/** A message holds its marker in a small number; more would not be told apart. */
export const MOST_MARKERS = 8;

/** A service that mail comes through. */
export interface Account {
  readonly id: number;
  /** What the person calls it; "" where they call it nothing. */
  readonly name: string;
  readonly address: string;
}

/** What names mean for one person. Markers are in the order "next" goes through them. */
export interface Directory {
  readonly folders: readonly Folder[];
  readonly labels: readonly Label[];
  readonly markers: readonly Marker[];
  /** Those with a mail server; none where it is left out. */
  readonly accounts?: readonly Account[];
}

const alike = (a: string, b: string): boolean => a === b || a.toLowerCase() === b.toLowerCase();

/** Exact spelling first, then without regard to case. */
function named<T>(things: readonly T[], nameOf: (thing: T) => string, name: string): T | undefined {
  return things.find((thing) => nameOf(thing) === name) ?? things.find((thing) => alike(nameOf(thing), name));
}

export const folderNamed = (d: Directory, path: string) => named(d.folders, (f) => f.path, path.trim());
export const labelNamed = (d: Directory, name: string) => named(d.labels, (l) => l.name, name.trim());
export const markerNamed = (d: Directory, letter: string) => named(d.markers, (m) => m.letter, letter.trim());
/** What an account is called where it is named. */
export const accountName = ({ name, address }: Pick<Account, "name" | "address">): string => name || address;
export const accountNamed = ({ accounts = [] }: Directory, name: string) =>
  named(accounts, accountName, name.trim()) ?? named(accounts, ({ address }) => address, name.trim());
export const folderFor = (d: Directory, role: Role) => d.folders.find((folder) => folder.role === role);

export type PathProblem = "empty" | "too-long" | "empty-segment" | "control-character";

const LONGEST_PATH = 200;

/** A folder path or label name as it will be stored: trimmed segments, no doubled slashes. */
export function readPath(raw: string): { ok: true; path: string } | { ok: false; problem: PathProblem } {
  const path = raw
    .normalize("NFC")
    .split("/")
    .map((segment) => segment.trim())
    .join("/");
  if (path === "") return { ok: false, problem: "empty" };
  if (path.length > LONGEST_PATH) return { ok: false, problem: "too-long" };
  if (/[\p{Cc}]/u.test(path)) return { ok: false, problem: "control-character" };
  if (path.split("/").some((segment) => segment === "")) return { ok: false, problem: "empty-segment" };
  return { ok: true, path };
}

export const pathProblemText = {
  empty: "Give it a name.",
  "too-long": `Use at most ${LONGEST_PATH} characters.`,
  "empty-segment": "Two slashes stand together, or one stands at an end. Write it like Bookings/Groups.",
  "control-character": "Leave out line breaks and other control characters.",
} as const satisfies Record<PathProblem, string>;
export { COLOURS, type Colour } from "./colour";
export { findNames } from "./find";
export { MARKER_SETS, type MarkerSet } from "./sets";
