import { writeMail, type Charset, type Encoding, type Multipart, type Part } from "./mime";
import * as bookings from "./kinds/bookings";
import * as noise from "./kinds/noise";
import * as people from "./kinds/people";
import * as regular from "./kinds/regular";
import * as running from "./kinds/running";
import { seeded, type Random } from "./random";
import type { Kind, Letter } from "./story";
import { DOMAIN, OFFICE, type Person } from "./world";

/** Letters of the world, one by one: what sort of letter comes, and how it looks when it arrives. */

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

export const ZONES = [60, 60, 60, 120, 0, -300, 540];

export const kindOf = (r: Random): Kind => {
  let at = r.int(1, WEIGHTS);
  for (const [weight, kind] of KINDS) if ((at -= weight) <= 0) return kind;
  return bookings.request;
};

export function bodyOf(r: Random, letter: Letter, text: string): Part | Multipart {
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

export const addressed = (letter: Letter): readonly Person[] =>
  typeof letter.to === "string" ? [{ name: OFFICE, address: `${letter.to}@${DOMAIN}` }] : letter.to;

const domainOf = ({ from }: Letter): string => from.address.split("@")[1] ?? DOMAIN;

/** What the servers on the way have written over a letter. */
export function arrivalHeaders(letter: Letter, date: Date): (readonly [string, string])[] {
  const domain = domainOf(letter);
  const at = new Date(date.getTime() + 4000).toUTCString().replace("GMT", "+0000");
  return [
    ["Received", `from mx.${domain} by mx.${DOMAIN} with ESMTPS; ${at}`],
    authentication(domain, letter.folder === "Junk"),
  ];
}

/** Far from the seeds that worlds are made with. */
const ARRIVALS = 0x5eed_0000;

/** The n-th letter that comes to the office by itself, as it arrives at that time. */
export function letterAt(n: number, at: Date): Uint8Array {
  const r = seeded(ARRIVALS + n);
  const date = new Date(at.getTime() - (at.getTime() % 1000));
  // Stories begin with a letter to the office; what it answered itself was never sent.
  const letter = kindOf(r)(r, date).find(({ sent }) => !sent) ?? bookings.request(r, date)[0]!;
  return writeMail({
    from: letter.from,
    to: addressed(letter),
    subject: letter.subject,
    date,
    zone: r.pick(ZONES),
    id: `n${n.toString(36)}.${date.getTime().toString(36)}.${r.int(1e6, 9e6)}@${domainOf(letter)}`,
    headers: [...arrivalHeaders(letter, date), ...(letter.headers ?? [])],
    body: bodyOf(r, letter, letter.text),
  });
}
