import { addressed, arrivalHeaders, bodyOf, kindOf, ZONES } from "./letters";
import { writeMail, type Mail } from "./mime";
import { seeded, type Random } from "./random";
import type { Letter } from "./story";
import { DOMAIN } from "./world";

export interface Generated {
  /** Path of the folder it goes into. */
  readonly folder: string;
  readonly raw: Uint8Array;
  readonly sender: string;
  /** Its Message-ID, with brackets. */
  readonly messageId: string;
  readonly date: Date;
}

export interface Options {
  readonly messages: number;
  readonly seed: number;
  /** The newest mail is from just before this. */
  readonly now: Date;
}

/** The inbox holds this many, or a third of a small world. */
const INBOX = 400;
const SPAN_DAYS = 730;
const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;

const quote = (letter: Letter, date: Date): string =>
  `\nOn ${date.toISOString().slice(0, 10)}, ${letter.from.name} wrote:\n${letter.text
    .trim()
    .split("\n")
    .map((line) => `> ${line}`)
    .join("\n")}\n`;

/** Days back from now. Filed mail is spread over two years; the inbox is fresh, with a tail that was neglected. */
const ageOf = (r: Random, fresh: boolean): number =>
  fresh ? (r.chance(0.72) ? 0.02 + r.next() ** 1.3 * 6 : 6 + r.next() ** 1.6 * 24) : 3 + r.next() * (SPAN_DAYS - 3);

/** Every message of the world, in the order it is to be written; the same for the same options. */
export function* generate({ messages, seed, now }: Options): Generator<Generated> {
  const r = seeded(seed);
  const inbox = Math.min(INBOX, Math.floor(messages / 3));
  let made = 0;
  let inInbox = 0;
  while (made < messages) {
    const fresh = inInbox < inbox;
    let date = new Date(now.getTime() - ageOf(r, fresh) * DAY_MS);
    // Offices write by day; the seconds keep two messages from having one time.
    date = new Date(date.getTime() - (date.getTime() % 1000));
    const story = kindOf(r)(r, date);
    const ids: string[] = [];
    let before: { letter: Letter; date: Date } | null = null;
    for (const letter of story) {
      if (letter.after !== undefined) date = new Date(date.getTime() + letter.after * HOUR_MS + r.int(0, 3599) * 1000);
      if (made >= messages || date > now) break;
      const domain = letter.from.address.split("@")[1] ?? DOMAIN;
      const id = `${seed.toString(36)}.${made.toString(36)}.${r.int(1e6, 9e6)}@${domain}`;
      const text = letter.quotes && before ? letter.text + quote(before.letter, before.date) : letter.text;
      const read = letter.sent || ((fresh ? r.chance(0.3) : r.chance(0.97)) && !letter.ignored);
      const answered = !letter.sent && story.length > 1 && letter === story[0] && !fresh;
      const headers: (readonly [string, string])[] = [
        ...(letter.sent ? [] : arrivalHeaders(letter, date)),
        ...(letter.headers ?? []),
        ...(read ? [["Status", "RO"] as const] : []),
        ...(answered ? [["X-Status", "A"] as const] : []),
        ...(letter.keywords?.length ? [["X-Keywords", letter.keywords.join(", ")] as const] : []),
      ];
      const mail: Mail = {
        from: letter.from,
        to: addressed(letter),
        subject: letter.subject,
        date,
        zone: r.pick(ZONES),
        id,
        references: [...ids],
        headers,
        body: bodyOf(r, letter, text),
      };
      const folder = letter.sent
        ? "Sent"
        : fresh && inInbox < inbox
          ? "Inbox"
          : !letter.folder.includes("Junk") && r.chance(0.18)
            ? "Archive"
            : letter.folder;
      yield { folder, raw: writeMail(mail), sender: letter.from.address, messageId: `<${id}>`, date };
      ids.push(id);
      before = { letter, date };
      made++;
      if (folder === "Inbox") inInbox++;
    }
  }
}
