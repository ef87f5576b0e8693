import type { Card, CardGroup } from "./card";
import { escape, fold } from "./line";

/**
 * Writes people and groups as cards: CRLF between lines, folded at 75 octets. vCard 3 has no groups, so there each
 * member's card names them as categories, and a member nobody keeps gets a card of their own.
 */
export function writeCards(people: readonly Card[], groups: readonly CardGroup[], version: 3 | 4): string {
  const kept = new Set(people.flatMap(({ addresses }) => addresses));
  const unknown = [...new Set(groups.flatMap(({ members }) => members))].filter((address) => !kept.has(address));
  const everybody =
    version === 4 ? people : [...people, ...unknown.map((address) => ({ name: "", addresses: [address], note: "" }))];
  const cards = everybody.map((card) => personLines(card, groups, version));
  if (version === 4) cards.push(...groups.map(groupLines));
  return cards.flatMap((lines) => ["BEGIN:VCARD", ...lines, "END:VCARD"].map((line) => `${fold(line)}\r\n`)).join("");
}

function personLines({ name, addresses, note }: Card, groups: readonly CardGroup[], version: 3 | 4): string[] {
  const shown = escape(name || (addresses[0] ?? ""));
  const categories = groups
    .filter(({ members }) => addresses.some((address) => members.includes(address)))
    .map((group) => escape(group.name));
  return [
    `VERSION:${version}.0`,
    `FN:${shown}`,
    // Which part of a name is the family's is not known, and vCard 3 asks for one.
    ...(version === 3 ? [`N:${shown};;;;`] : []),
    ...addresses.map((address, i) => {
      const preferred = addresses.length > 1 && i === 0;
      if (version === 3) return `EMAIL;TYPE=INTERNET${preferred ? ",PREF" : ""}:${escape(address)}`;
      return `EMAIL${preferred ? ";PREF=1" : ""}:${escape(address)}`;
    }),
    ...(note === "" ? [] : [`NOTE:${escape(note)}`]),
    ...(version === 3 && categories.length > 0 ? [`CATEGORIES:${categories.join(",")}`] : []),
  ];
}

const groupLines = ({ name, members }: CardGroup): string[] => [
  "VERSION:4.0",
  "KIND:group",
  `FN:${escape(name)}`,
  ...members.map((address) => `MEMBER:${escape(`mailto:${encodeURIComponent(address).replaceAll("%40", "@")}`)}`),
];
