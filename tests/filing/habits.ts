import type { FilingMail } from "@/core/filing";
import { folderId, type FolderId } from "@/core/id";
import { seeded, type Random } from "../../demo/random";

/** Made-up mailboxes of people with different habits, of which it is known how much of them can be told at all. */

export interface Filed {
  readonly mail: FilingMail;
  readonly folder: FolderId;
  /** When it was filed, milliseconds since 1970. */
  readonly atMs: number;
}

export interface Habits {
  readonly name: string;
  readonly filed: readonly Filed[];
  /** The share that somebody who knows the habits gets right; null where that is not known. */
  readonly best: number | null;
}

const START = Date.parse("2024-12-01T08:00:00Z");
const DAY_MS = 86_400_000;
const SPAN_DAYS = 700;
const SYLLABLES = [
  "lar",
  "tar",
  "cor",
  "mun",
  "sel",
  "bri",
  "gon",
  "vel",
  "hut",
  "mar",
  "fen",
  "dal",
  "rim",
  "osk",
  "ter",
  "lin",
];
const COMMON = [
  "please",
  "thank",
  "question",
  "meeting",
  "week",
  "report",
  "list",
  "about",
  "tomorrow",
  "plan",
  "beds",
  "key",
];

const wordOf = (r: Random): string => `${r.pick(SYLLABLES)}${r.pick(SYLLABLES)}${r.pick(SYLLABLES)}`;
const some = <T>(r: Random, all: readonly T[], count: number): T[] => Array.from({ length: count }, () => r.pick(all));
const addressOf = (r: Random, domain = `${wordOf(r)}.example`): string => `${wordOf(r)}.${wordOf(r)}@${domain}`;

const mailOf = (
  from: string,
  subject: readonly string[],
  words: readonly string[],
  dateMs: number,
  more: Partial<FilingMail> = {},
): FilingMail => ({
  from,
  to: [],
  via: ["desk@huts.example"],
  list: "",
  subject: subject.join(" "),
  words,
  files: [],
  thread: [],
  dateMs,
  ...more,
});

/** Many small folders, each for a handful of people; now and then something goes somewhere else. */
export function manySmall(messages: number, folders: number, seed: number): Habits {
  const r = seeded(seed);
  const STRAY = 0.06;
  const owners = Array.from({ length: folders }, () => {
    const domain = `${wordOf(r)}.example`;
    return Array.from({ length: r.int(1, 4) }, () => addressOf(r, domain));
  });
  const filed: Filed[] = [];
  for (let n = 0; n < messages; n++) {
    // A few folders get most of it.
    const meant = Math.floor(folders * r.next() ** 1.7);
    const atMs = START + (n / messages) * SPAN_DAYS * DAY_MS;
    const folder = r.chance(STRAY) ? r.int(0, folders - 1) : meant;
    filed.push({
      mail: mailOf(r.pick(owners[meant]!), some(r, COMMON, 3), some(r, COMMON, 8), atMs),
      folder: folderId(folder + 1),
      atMs,
    });
  }
  return { name: `${folders} small folders`, filed, best: 1 - STRAY * (1 - 1 / folders) };
}

/** Folders by project: the same people write about several, and what it is about stands in the words. */
export function byProject(messages: number, projects: number, seed: number): Habits {
  const r = seeded(seed);
  const STRAY = 0.05;
  const people = Array.from({ length: 40 }, () => addressOf(r));
  const words = Array.from({ length: projects }, () => Array.from({ length: 14 }, () => wordOf(r)));
  const teams = people.map(() => some(r, [...words.keys()], 4));
  const threads = new Map<number, { readonly folders: FolderId[]; readonly project: number }>();
  const filed: Filed[] = [];
  for (let n = 0; n < messages; n++) {
    const atMs = START + (n / messages) * SPAN_DAYS * DAY_MS;
    const who = r.int(0, people.length - 1);
    const known = r.chance(0.35) ? threads.get(r.int(Math.max(0, n - 60), Math.max(0, n - 1))) : undefined;
    const project = known?.project ?? r.pick(teams[who]!);
    const folder = folderId((r.chance(STRAY) ? r.int(0, projects - 1) : project) + 1);
    const subject = [...some(r, words[project]!, 1), ...some(r, COMMON, 3)];
    const text = [...some(r, words[project]!, 4), ...some(r, COMMON, 12)];
    filed.push({
      mail: mailOf(people[who]!, subject, text, atMs, {
        thread: known ? [...new Set(known.folders)] : [],
        files: r.chance(0.2) ? ["plan.pdf"] : [],
      }),
      folder,
      atMs,
    });
    const thread = known ?? { folders: [], project };
    thread.folders.push(folder);
    threads.set(n, thread);
  }
  return { name: `${projects} projects across people`, filed, best: 1 - STRAY * (1 - 1 / projects) };
}

/** Half way, what some people send goes elsewhere from then on. */
export function drifting(messages: number, folders: number, seed: number): Habits {
  const r = seeded(seed);
  const STRAY = 0.05;
  const MOVES = 0.4;
  const people = Array.from({ length: folders * 6 }, () => addressOf(r));
  const before = people.map(() => r.int(0, folders - 1));
  const after = before.map((folder) => (r.chance(MOVES) ? r.int(0, folders - 1) : folder));
  const filed = Array.from({ length: messages }, (_, n): Filed => {
    const who = Math.floor(people.length * r.next() ** 1.5);
    const atMs = START + (n / messages) * SPAN_DAYS * DAY_MS;
    const meant = (n < messages / 2 ? before : after)[who]!;
    const folder = r.chance(STRAY) ? r.int(0, folders - 1) : meant;
    return {
      mail: mailOf(people[who]!, some(r, COMMON, 3), some(r, COMMON, 8), atMs),
      folder: folderId(folder + 1),
      atMs,
    };
  });
  return { name: `${folders} folders, habits change half way`, filed, best: 1 - STRAY * (1 - 1 / folders) };
}
