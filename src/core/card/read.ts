import { isAddress } from "../letter";
import { percentDecoded, storable } from "../text";
import type { Card, CardGroup, Line } from "./card";
import { partsOf, readLine, unescape, unfold } from "./line";

/** A card that nobody can be made of, and why, in words. */
export interface LeftCard {
  readonly name: string;
  readonly why: string;
}

export interface Cards {
  readonly people: readonly Card[];
  readonly groups: readonly CardGroup[];
  readonly left: readonly LeftCard[];
}

/** What is known of somebody beside name, address and note is kept in words, below the note. */
const TOLD: ReadonlyMap<string, string> = new Map([
  ["ORG", "Organisation"],
  ["TITLE", "Title"],
  ["ROLE", "Role"],
  ["TEL", "Telephone"],
  ["ADR", "Address"],
  ["URL", "Page"],
  ["BDAY", "Birthday"],
]);

/** Lines of each card, in the order of the file. */
function* cardsIn(text: string): Generator<Line[]> {
  let card: Line[] | null = null;
  for (const written of unfold(text)) {
    const line = readLine(written);
    if (!line) continue;
    const marks = line.value.trim().toUpperCase() === "VCARD";
    if (line.name === "BEGIN" && marks) {
      // One that begins inside another was never ended: what there is of it counts.
      if (card) yield card;
      card = [];
    } else if (line.name === "END" && marks) {
      if (card) yield card;
      card = null;
    } else card?.push(line);
  }
  if (card) yield card;
}

const clean = (value: string): string => storable(unescape(value)).trim();
const valuesOf = (lines: readonly Line[], name: string): string[] =>
  lines
    .filter((line) => line.name === name)
    .map(({ value }) => clean(value))
    .filter(Boolean);

/** What is preferred comes first: PREF=1 to 100 in vCard 4, TYPE=pref in vCard 3. */
function preference({ params }: Line): number {
  const rank = Number(params.get("PREF")?.[0] ?? NaN);
  if (rank >= 1 && rank <= 100) return rank;
  return params.get("TYPE")?.some((type) => type.toLowerCase() === "pref") ? 1 : 101;
}

/** A name in the order it is spoken, from family; given; further; before; behind. */
function nameOf(lines: readonly Line[]): string {
  const [written] = valuesOf(lines, "FN");
  if (written) return written.replace(/\s+/g, " ");
  const structured = lines.find(({ name }) => name === "N");
  const [family = "", given = "", further = "", before = "", behind = ""] = partsOf(structured?.value ?? "", ";").map(
    (part) => clean(part.replaceAll(",", " ")),
  );
  return [before, given, further, family, behind].filter(Boolean).join(" ").replace(/\s+/g, " ");
}

function noteOf(lines: readonly Line[]): string {
  const told = lines.flatMap(({ name, value }) => {
    const what = TOLD.get(name);
    const text = partsOf(value, ";").map(clean).filter(Boolean).join(", ").replace(/^tel:/i, "");
    return what && text ? [`${what}: ${text}`] : [];
  });
  return [...valuesOf(lines, "NOTE"), ...told].join("\n");
}

/**
 * Reads a file of cards in vCard 3 or 4. What cannot be anybody is named with its reason; a member that a group names
 * by a card's UID is found in the whole file.
 */
export function readCards(text: string): Cards {
  const people: Card[] = [];
  const left: LeftCard[] = [];
  const byUid = new Map<string, readonly string[]>();
  const named: { readonly name: string; readonly members: readonly string[] }[] = [];
  for (const lines of cardsIn(text)) {
    const name = nameOf(lines);
    const version = valuesOf(lines, "VERSION")[0] ?? "";
    if (version !== "3.0" && version !== "4.0") {
      const why = version === "" ? "it does not say its version" : `version ${version} is not read`;
      left.push({ name, why: `${why}: save it as vCard 3.0 or 4.0 where it comes from` });
      continue;
    }
    if (valuesOf(lines, "KIND")[0]?.toLowerCase() === "group") {
      named.push({ name, members: valuesOf(lines, "MEMBER") });
      continue;
    }
    const written = lines
      .filter((line) => line.name === "EMAIL")
      .sort((a, b) => preference(a) - preference(b))
      .map(({ value }) =>
        clean(value)
          .replace(/^mailto:/i, "")
          .toLowerCase(),
      );
    const addresses = [...new Set(written)].filter(isAddress);
    if (addresses.length === 0) {
      left.push({ name, why: written.length > 0 ? `"${written[0]}" cannot be an address` : "it has no address" });
      continue;
    }
    // Nobody's name is their address: it stands there where a card must have a name and there is none.
    people.push({ name: name.toLowerCase() === addresses[0] ? "" : name, addresses, note: noteOf(lines) });
    for (const uid of valuesOf(lines, "UID")) byUid.set(uid.toLowerCase(), addresses.slice(0, 1));
    for (const line of lines)
      if (line.name === "CATEGORIES")
        for (const group of partsOf(line.value, ",").map(clean))
          if (group) named.push({ name: group, members: addresses.slice(0, 1) });
  }
  return { people, groups: groupsOf(named, byUid), left };
}

/** The address in a mailto: (RFC 6068), where it is one. */
function mailedTo(uri: string): string {
  const path = uri.replace(/^mailto:/, "");
  return path === uri ? uri : percentDecoded(path);
}

function groupsOf(
  named: readonly { readonly name: string; readonly members: readonly string[] }[],
  byUid: ReadonlyMap<string, readonly string[]>,
): CardGroup[] {
  const groups = new Map<string, { readonly name: string; readonly members: Set<string> }>();
  for (const { name, members } of named) {
    if (name === "") continue;
    const group = groups.get(name.toLowerCase()) ?? { name, members: new Set() };
    groups.set(name.toLowerCase(), group);
    for (const written of members) {
      const member = written.toLowerCase();
      const meant = byUid.get(member) ?? byUid.get(member.replace(/^urn:uuid:/, "")) ?? [mailedTo(member)];
      for (const address of meant) if (isAddress(address)) group.members.add(address);
    }
  }
  return [...groups.values()].map(({ name, members }) => ({ name, members: [...members] }));
}
