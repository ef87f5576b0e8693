import type { Clues } from "./clues";
import { knownDomains, likenessOf, orgOf, shownDomain, type KnownDomains, type Likeness } from "./domains";

/** What about a message does not fit: kinds of it, by the words narrowings know them by. */
export const SIGNS = ["falselink", "lookalike", "falsename", "otherreply", "failedcheck", "oddfile"] as const;
export type SignOfDeceit = (typeof SIGNS)[number];

/** One of them, with what speaks for it in words. */
export interface Suspicion {
  readonly sign: SignOfDeceit;
  readonly evidence: string;
}

/** Whom a person knows: contacts, those they have written to, and themselves. */
export interface Acquaintance {
  /** Addresses in lower case. */
  readonly addresses: ReadonlySet<string>;
  /** Addresses of contacts and of themselves by name, as nameKey makes it: many a stranger has the name of another. */
  readonly names: ReadonlyMap<string, readonly string[]>;
  readonly domains: KnownDomains;
  /** Domains of the servers the person's mail comes through: what they say of a message counts. */
  readonly servers: ReadonlySet<string>;
}

/** What a person says of themselves in a message. */
export interface Sender {
  readonly name: string;
  readonly address: string;
  /** "" for mail of no list. */
  readonly list: string;
}

const domainOf = (address: string): string => shownDomain(address.slice(address.lastIndexOf("@") + 1));

/** Of a name so many words and letters are needed for it to be somebody's alone. */
const LEAST_WORDS = 2;
const LEAST_LETTERS = 6;

/** A name whatever its case, order and marks; null for one that too many have. */
export function nameKey(name: string): string | null {
  const words = name
    .normalize("NFKD")
    .replace(/\p{M}+/gu, "")
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .sort();
  return words.length >= LEAST_WORDS && words.join("").length >= LEAST_LETTERS ? words.join(" ") : null;
}

interface Named {
  readonly name: string;
  readonly address: string;
}

/** Who is known, made from names and addresses. */
export function acquaintanceOf(who: {
  readonly contacts: readonly Named[];
  readonly writtenTo: readonly string[];
  readonly own: readonly Named[];
  /** Of servers the person's mail comes through. */
  readonly hosts: readonly string[];
}): Acquaintance {
  const near = [...who.own, ...who.contacts].map(({ name, address }) => ({ name, address: address.toLowerCase() }));
  const addresses = new Set([...near.map(({ address }) => address), ...who.writtenTo.map((one) => one.toLowerCase())]);
  const names = new Map<string, string[]>();
  for (const { name, address } of near) {
    const key = nameKey(name);
    if (key !== null) names.set(key, [...(names.get(key) ?? []), address]);
  }
  const orgs = (some: Iterable<string>): string[] =>
    [...some].filter((address) => address.includes("@")).map((address) => orgOf(domainOf(address)));
  return {
    addresses,
    names,
    domains: knownDomains(orgs(addresses), orgs(near.map(({ address }) => address))),
    servers: new Set([
      ...orgs(who.own.map(({ address }) => address)),
      ...who.hosts.map((host) => orgOf(shownDomain(host))),
    ]),
  };
}

const LIKE: Record<Likeness["how"], (domain: string, known: string) => string> = {
  "reads the same": (domain, known) => `${domain} reads like ${known}, and is another`,
  "one letter": (domain, known) => `${domain} is one letter from ${known}`,
  "in front": (domain, known) => `${domain} begins like ${known}, and belongs to ${orgOf(domain)}`,
  "in its name": (domain, known) => `${domain} has the name of ${known} in it, and is another`,
};

const MAIL_IN_NAME = /[^\s@<>"'()]+@([^\s@<>"'()]+\.[^\s@<>"'(),;]+)/;

function falseName({ name, address }: Sender, known: Acquaintance): string | null {
  const org = orgOf(domainOf(address));
  const written = MAIL_IN_NAME.exec(name);
  if (written && orgOf(shownDomain(written[1]!)) !== org) return `its name says ${written[0]}; it came from ${address}`;
  const key = nameKey(name);
  const theirs = key === null ? undefined : known.names.get(key);
  if (!theirs || theirs.some((one) => orgOf(domainOf(one)) === org)) return null;
  return `you know ${name} as ${theirs[0]}; it came from ${address}`;
}

function otherReply({ address, list }: Sender, { replyTo }: Clues, known: Acquaintance): string | null {
  if (list !== "") return null;
  const org = orgOf(domainOf(address));
  const other = replyTo.find((one) => orgOf(domainOf(one)) !== org && !known.addresses.has(one.toLowerCase()));
  return other === undefined ? null : `answers would go to ${other}, not to ${address}`;
}

/** What about a message does not fit, each kind once. Mail of the person's own is not to be asked about. */
export function suspicionsOf(sender: Sender, clues: Clues, known: Acquaintance): Suspicion[] {
  const address = sender.address.toLowerCase();
  const found: Suspicion[] = [];
  const add = (sign: SignOfDeceit, evidence: string | null | undefined) => {
    if (evidence) found.push({ sign, evidence });
  };
  const from = orgOf(domainOf(address));
  // A list may count who follows its links, by way of a place of its own; but not to where one has people of one's own.
  const counts = (to: string, said: string) =>
    sender.list !== "" && orgOf(to) === from && !known.domains.all.has(orgOf(said));
  const link = clues.links.find(({ to, said }) => !counts(to, said));
  add("falselink", link && `“${link.text}” leads to ${link.to}`);
  if (address.includes("@") && !known.addresses.has(address)) {
    const like = likenessOf(domainOf(address), known.domains);
    add("lookalike", like && LIKE[like.how](domainOf(address), like.known));
    add("falsename", falseName(sender, known));
  }
  if (address.includes("@")) add("otherreply", otherReply(sender, clues, known));
  // What other servers say of it anybody can have written; of one's own the last word counts.
  const said = clues.failed.find(({ server }) => known.servers.has(orgOf(shownDomain(server))));
  add("failedcheck", said && `your server ${said.server} could not confirm the sender: ${said.check}`);
  add("oddfile", clues.files[0] && `${clues.files[0]} is a kind of file that runs, or asks for what it should not`);
  return found;
}
