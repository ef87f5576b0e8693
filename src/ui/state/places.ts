import { writeEquals } from "@/core/narrow";
import type { Folder } from "@/core/place";

/** What a folder shows, as an expression. The inbox leaves out what is deferred: that has a place of its own. */
export const placeOf = ({ path, role }: Pick<Folder, "path" | "role">): string =>
  `${writeEquals("folder", path)}${role === "inbox" ? " & !deferred" : ""}`;

export const DEFERRED = "deferred";
/** What an answer is awaited to, and what one is owed to. */
export const AWAITED = "awaited";
export const OWED = "owed";
/** What carries a marker, whichever. */
export const MARKED = "marked";

/** A place as its chip says it. */
export function placeName(place: string): string {
  const of = /^(.+) & (account|via)=("(?:[^"]|"")*"|[^\s&]+)$/.exec(place);
  if (of) {
    const name = of[3]!.replace(/^"|"$/g, "").replaceAll('""', '"');
    return `${placeName(of[1]!)} ${of[2] === "via" ? "to" : "of"} ${name}`;
  }
  const path = /^folder=(?:"((?:[^"]|"")*)"|([^\s&]+))(?: & !deferred)?$/.exec(place);
  if (path) return path[1]?.replaceAll('""', '"') ?? path[2]!;
  const named: Readonly<Record<string, string>> = {
    "": "All mail",
    [DEFERRED]: "Deferred",
    [AWAITED]: "Awaited",
    [OWED]: "Owed",
    [MARKED]: "Any marker",
  };
  return named[place] ?? place;
}
