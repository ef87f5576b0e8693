import { writeMail, type Charset, type Encoding, type Mail, type Multipart, type Part } from "./mime";
import * as bookings from "./kinds/bookings";
import * as noise from "./kinds/noise";
import * as people from "./kinds/people";
import * as regular from "./kinds/regular";
import * as running from "./kinds/running";
import { seeded, type Random } from "./random";
import type { Kind, Letter } from "./story";
import { DOMAIN, OFFICE, type Person } from "./world";

export interface Generated {
  /** Path of the folder it goes into. */
  readonly folder: string;
  readonly raw: Uint8Array;
  readonly sender: string;
  readonly date: Date;
}

export interface Options {
  readonly messages: number;
  readonly seed: number;
  /** The newest mail is from just before this. */
  readonly now: Date;
}

/** How often each kind comes, in parts of a whole. */
const KINDS: readonly (readonly [weight: number, kind: Kind])[] = [
  [20, bookings.request],
  [5, bookings.change],
  [5, bookings.cancellation],
  [3, bookings.lost],
  [4, bookings.question],
  [13, running.supply],
  [7, running.report],
  [3, running.wardenNote],
  [11, regular.bulletin],
  [5, regular.rota],
  [4, regular.committee],
  [2, regular.inspection],
  [8, noise.newsletter],
  [5, noise.statement],
  [2, noise.press],
  [5, noise.junk],
  [1, noise.phishing],
  [1, noise.bounce],
  [1, noise.away],
  [1, noise.odd],
  [6, people.tripReport],
  [1, people.album],
  [1, people.debate],
  [4, people.digest],
];
const WEIGHTS = KINDS.reduce((sum, [weight]) => sum + weight, 0);

/** The inbox holds this many, or a third of a small world. */
const INBOX = 400;
const SPAN_DAYS = 730;
const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
const ZONES = [60, 60, 60, 120, 0, -300, 540];

const kindOf = (r: Random): Kind => {
  let at = r.int(1, WEIGHTS);
  for (const [weight, kind] of KINDS) if ((at -= weight) <= 0) return kind;
  return bookings.request;
};

const quote = (letter: Letter, date: Date): string =>
  `\nOn ${date.toISOString().slice(0, 10)}, ${letter.from.name} wrote:\n${letter.text
    .trim()
    .split("\n")
    .map((line) => `> ${line}`)
    .join("\n")}\n`;

function bodyOf(r: Random, letter: Letter, text: string): Part | Multipart {
  if (letter.body) return letter.body;
  const charset = r.pick<Charset>(["utf-8", "utf-8", "utf-8", "iso-8859-1", "windows-1252"]);
  const encoding = r.pick<Encoding>(["quoted-printable", "quoted-printable", "8bit", "base64", "7bit"]);
  const plain: Part = { type: "text/plain", content: text, charset, encoding };
  const inline = letter.files?.filter((file) => file.disposition === "inline") ?? [];
  const attached = letter.files?.filter((file) => file.disposition !== "inline") ?? [];
  const html: Part | null = letter.html ? { type: "text/html", content: letter.html, charset: "utf-8" } : null;
  const rich: Part | Multipart | null =
    html && inline.length > 0 ? { multipart: "related", parts: [html, ...inline] } : html;
  const words: Part | Multipart = rich ? { multipart: "alternative", parts: [plain, rich] } : plain;
  return attached.length > 0 ? { multipart: "mixed", parts: [words, ...attached] } : words;
}

/** What the receiving server found out about the sender (RFC 8601): forged mail fails in one of three ways. */
function authentication(domain: string, isJunk: boolean): readonly [string, string] {
  const found = isJunk
    ? `spf=softfail smtp.mailfrom=${domain}; dkim=none; dmarc=fail header.from=${domain}`
    : `spf=pass smtp.mailfrom=${domain}; dkim=pass header.d=${domain}; dmarc=pass header.from=${domain}`;
  return ["Authentication-Results", `mx.${DOMAIN}; ${found}`];
}

const addressed = (letter: Letter): readonly Person[] =>
  typeof letter.to === "string" ? [{ name: OFFICE, address: `${letter.to}@${DOMAIN}` }] : letter.to;

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
      const read = letter.sent || (fresh ? r.chance(0.3) : r.chance(0.97));
      const answered = !letter.sent && story.length > 1 && letter === story[0] && !fresh;
      const headers: (readonly [string, string])[] = [
        ...(letter.sent
          ? []
          : [
              [
                "Received",
                `from mx.${domain} by mx.${DOMAIN} with ESMTPS; ${new Date(date.getTime() + 4000).toUTCString().replace("GMT", "+0000")}`,
              ] as const,
            ]),
        ...(letter.sent ? [] : [authentication(domain, letter.folder === "Junk")]),
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
      yield { folder, raw: writeMail(mail), sender: letter.from.address, date };
      ids.push(id);
      before = { letter, date };
      made++;
      if (folder === "Inbox") inInbox++;
    }
  }
}
