/**
 * Dates and amounts in what people write. Every pattern here is linear: bounded repeats, and nothing that can
 * match the same text in two ways; the text is cut to LONGEST_TEXT first.
 */
export const LONGEST_TEXT = 20_000;

const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const MONTH =
  "(jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?)";

const WRITTEN = [
  { pattern: /\b(\d{4})-(\d{2})-(\d{2})\b/g, order: ["year", "month", "day"] },
  { pattern: /\b(\d{1,2})[./](\d{1,2})[./](\d{4})\b/g, order: ["day", "month", "year"] },
  {
    pattern: new RegExp(`\\b(\\d{1,2})(?:st|nd|rd|th)?\\.? (?:of )?${MONTH}\\b\\.?,?(?: (\\d{4})\\b)?`, "gi"),
    order: ["day", "month", "year"],
  },
  {
    pattern: new RegExp(`\\b${MONTH}\\b\\.? (\\d{1,2})(?:st|nd|rd|th)?\\b(?:,? (\\d{4})\\b)?`, "gi"),
    order: ["month", "day", "year"],
  },
] as const;

const DAY_MS = 86_400_000;
const pad = (n: number): string => String(n).padStart(2, "0");

const monthOf = (text: string): number =>
  /^\d/.test(text) ? Number(text) : MONTHS.indexOf(text.slice(0, 3).toLowerCase()) + 1;

const exists = (year: number, month: number, day: number): boolean => {
  const date = new Date(Date.UTC(year, month - 1, day));
  return date.getUTCMonth() === month - 1 && date.getUTCDate() === day;
};

/** The year in which that day is nearest. */
function nearestYear(to: Date, month: number, day: number): number {
  const awayMs = (year: number) => Math.abs(Date.UTC(year, month - 1, day) - to.getTime());
  const year = to.getUTCFullYear();
  return [year, year + 1, year - 1].sort((a, b) => awayMs(a) - awayMs(b))[0]!;
}

/** A day that a text says, and where. */
export interface FoundDay {
  readonly at: number;
  readonly end: number;
  /** "2026-12-05" */
  readonly day: string;
}

/**
 * The days written in the text that are not before the message, each as "2026-12-05". A day without a year is in
 * the year in which it is nearest to the message: in December "5 March" is next year's, and in March "5 February"
 * has passed. Days that have passed are passed over: "our stay of 3 May" is not when to act.
 * @param sentMs when the message was sent
 * @returns in the order of the text
 */
export function daysInText(text: string, sentMs: number): FoundDay[] {
  const source = text.slice(0, LONGEST_TEXT);
  const sent = new Date(sentMs);
  const found: FoundDay[] = [];
  // Of "5 December 9:00" the 9 is no day: a month that a day stands before is taken.
  const taken = new Set<number>();
  for (const { pattern, order } of WRITTEN)
    for (const match of source.matchAll(pattern)) {
      if (order[0] === "month" && taken.has(match.index)) continue;
      const part = (name: "year" | "month" | "day") => match[(order as readonly string[]).indexOf(name) + 1];
      const [day, month] = [Number(part("day")), monthOf(part("month") ?? "")];
      const written = part("year");
      const year = written ? Number(written) : nearestYear(sent, month, day);
      if (year < 1970 || year > 2200 || !exists(year, month, day)) continue;
      const named = match[0].search(/\p{L}{3}/u);
      if (named > 0) taken.add(match.index + named);
      if (Date.UTC(year, month - 1, day) >= sentMs - DAY_MS)
        found.push({ at: match.index, end: match.index + match[0].length, day: `${year}-${pad(month)}-${pad(day)}` });
    }
  return found.sort((a, b) => a.at - b.at);
}

/** The first of them; null where there is none. */
export const dateInText = (text: string, sentMs: number): string | null => daysInText(text, sentMs)[0]?.day ?? null;

const CURRENCY = "(CHF|EUR|USD|GBP|SEK|NOK|DKK|[€$£])";
const NUMBER = "(\\d{1,3}(?:[',.’ ]\\d{3}){0,4}|\\d{1,12})(?:[.,](\\d{2}))?";
const AMOUNTS = [
  { pattern: new RegExp(`${CURRENCY} ?${NUMBER}(?![\\d])`), currency: 1, whole: 2, cents: 3 },
  { pattern: new RegExp(`(?<![\\d.,])${NUMBER} ?${CURRENCY}`), currency: 3, whole: 1, cents: 2 },
];
const SIGNS: Record<string, string> = { "€": "EUR", $: "USD", "£": "GBP" };

/** The first amount of money in the text, as "CHF 1250.00"; null where there is none. */
export function amountInText(text: string): string | null {
  const source = text.slice(0, LONGEST_TEXT);
  const found = AMOUNTS.flatMap(({ pattern, currency, whole, cents }) => {
    const match = pattern.exec(source);
    if (!match) return [];
    const sign = match[currency]!;
    return [
      { at: match.index, text: `${SIGNS[sign] ?? sign} ${match[whole]!.replace(/\D/g, "")}.${match[cents] ?? "00"}` },
    ];
  });
  return found.sort((a, b) => a.at - b.at)[0]?.text ?? null;
}

/** "Okafor, Ines" and "Dr. Ines Okafor" are both Ines. null where the name is no person's. */
export function firstNameOf(name: string): string | null {
  const turned = /^([^,]{1,60}),\s*([^,]{1,60})$/.exec(name.trim());
  const words = (turned ? turned[2]! : name.trim())
    .split(/\s+/)
    .filter((word) => !/^(dr|prof|mr|mrs|ms)\.?$/i.test(word));
  const first = words[0];
  if (!first || !/^\p{L}[\p{L}'’.-]*$/u.test(first)) return null;
  return first;
}
