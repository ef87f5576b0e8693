import { seeded, type Random } from "./random";

/** What the office has decided before the demo begins: its filed mail was filed by somebody, at some time of some day. */

export interface FiledMail {
  /** Its Message-ID, as it stands in the header. */
  readonly messageId: string;
  readonly folder: string;
  readonly date: Date;
}

/** One run: mail that was put somewhere together. */
export interface PastRun {
  readonly at: string;
  readonly hand: "key" | "swipe";
  readonly folder: string;
  readonly messages: readonly string[];
}

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
/** Nobody in the office puts these anywhere. */
const BY_ITSELF = new Set(["Inbox", "Sent", "Drafts", "Junk"]);
/** What is swept away by one key, however many they are. */
const SWEPT = new Set(["Lists", "Weather", "Trash"]);
/** Hours, in UTC, from which the office sits down to its mail. */
const SESSIONS = [7.5, 12.5, 15.5] as const;

/** When mail was decided: mostly in the next session or two, some of it days later; never at a weekend. */
function decidedAt(r: Random, date: Date): number {
  const patience = r.chance(0.7)
    ? r.next() * 6 * HOUR_MS
    : r.chance(0.7)
      ? r.next() * 3 * DAY_MS
      : r.next() * 14 * DAY_MS;
  let day = new Date(date.getTime() + patience);
  for (let tries = 0; tries < 7; tries++) {
    const midnight = Date.UTC(day.getUTCFullYear(), day.getUTCMonth(), day.getUTCDate());
    const isWorkday = ![0, 6].includes(day.getUTCDay());
    const session = SESSIONS.map((hour) => midnight + hour * HOUR_MS).find((at) => at > day.getTime());
    if (isWorkday && session !== undefined) return session;
    day = new Date(midnight + DAY_MS);
  }
  return day.getTime();
}

/** The office's runs, oldest first; mail that would have been decided later was decided just before now. */
export function pastOf(mail: Iterable<FiledMail>, now: Date, seed: number): PastRun[] {
  const r = seeded(seed + 1);
  const sessions = new Map<string, { at: number; folder: string; messages: string[] }>();
  for (const { messageId, folder, date } of mail) {
    if (BY_ITSELF.has(folder)) continue;
    const at = Math.min(decidedAt(r, date), now.getTime() - 2 * HOUR_MS);
    const key = `${at} ${folder}`;
    const session = sessions.get(key) ?? { at, folder, messages: [] };
    session.messages.push(messageId);
    sessions.set(key, session);
  }
  const runs: PastRun[] = [];
  for (const { at, folder, messages } of sessions.values()) {
    const hand = r.chance(0.15) ? "swipe" : "key";
    const many = SWEPT.has(folder) ? messages.length : 1;
    for (let i = 0; i < messages.length; i += many)
      runs.push({
        // A few seconds for each, within the hours of the session.
        at: new Date(at + Math.floor(r.next() * 1.4 * HOUR_MS)).toISOString(),
        hand,
        folder,
        messages: messages.slice(i, i + many),
      });
  }
  return runs.sort((a, b) => (a.at < b.at ? -1 : 1));
}
