import { isAddress } from "../letter";

/** What a rule on sending asks of whom a letter goes to, beside its condition. */
export interface Reach {
  /** To more people than this; null for any number. */
  readonly moreThan: number | null;
  /** To somebody of no domain of the person's own. */
  readonly outside: boolean;
}

const domainOf = (address: string): string => address.slice(address.lastIndexOf("@") + 1).toLowerCase();

/** @param people everybody it goes to @param own the person's own addresses */
export function reaches(
  { moreThan, outside }: Reach,
  people: readonly { readonly address: string }[],
  own: Iterable<string>,
): boolean {
  const addresses = new Set(people.map(({ address }) => address.toLowerCase()));
  if (moreThan !== null && addresses.size <= moreThan) return false;
  if (!outside) return true;
  const domains = new Set([...own].map(domainOf));
  return [...addresses].some((address) => isAddress(address) && !domains.has(domainOf(address)));
}
