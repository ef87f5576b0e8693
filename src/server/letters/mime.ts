import MailComposer from "nodemailer/lib/mail-composer";
import type MimeNode from "nodemailer/lib/mime-node";
import type Mail from "nodemailer/lib/mailer";
import { flowedOf, htmlOf, isAddress, isRich, picturesOf, quotesOf, type Correspondent, type Doc } from "@/core/letter";

/** A file that goes along with a letter, or a picture in it. */
export interface LetterFile {
  readonly id: number;
  readonly name: string;
  /** Media type. */
  readonly type: string;
  readonly data: Uint8Array;
  /** Of a picture in the quoted original: how that names it. */
  readonly cid: string | null;
}

/** Everything that stands in the source of a letter. Blind copies do not: they are in the envelope alone. */
export interface Letter {
  readonly sender: Correspondent;
  readonly to: readonly Correspondent[];
  readonly cc: readonly Correspondent[];
  readonly subject: string;
  readonly body: Doc;
  /** As plain text alone. */
  readonly plain: boolean;
  /** With its brackets, as are those below. */
  readonly messageId: string;
  readonly inReplyTo: string | null;
  readonly references: readonly string[];
  readonly date: Date;
  readonly files: readonly LetterFile[];
}

/** Nothing that ends a header line. */
const oneLine = (text: string): string => text.replace(/[\p{Cc}\u2028\u2029]+/gu, " ").trim();

/** Bytes of a piece that an encoded word holds. */
const WORD_BYTES = 42;

/** What looks like an encoded word already (RFC 2047) is encoded itself, so that it is read as it was written. */
function literal(text: string): string {
  if (!text.includes("=?")) return text;
  const pieces = [""];
  for (const char of text) {
    if (Buffer.byteLength(pieces.at(-1)! + char) > WORD_BYTES) pieces.push("");
    pieces[pieces.length - 1] += char;
  }
  return pieces.map((piece) => `=?UTF-8?B?${Buffer.from(piece).toString("base64")}?=`).join(" ");
}

const people = (list: readonly Correspondent[]) =>
  list.filter(({ address }) => isAddress(address)).map(({ name, address }) => ({ name: oneLine(name), address }));

const MEDIA_TYPE = /^[a-z0-9][a-z0-9!#$&^_.+-]{0,80}\/[a-z0-9][a-z0-9!#$&^_.+-]{0,80}$/i;

/** A media type that may stand in a header; anything else is bytes. */
export const mediaType = (type: string): string =>
  MEDIA_TYPE.test(type) ? type.toLowerCase() : "application/octet-stream";

/** How a calendar says what it is for (RFC 6047, 2.4): without the method, no program would take it for an answer. */
const CALENDAR_TYPE = /^text\/calendar; method=[A-Z]+$/;
export const calendarType = (method: "REQUEST" | "REPLY" | "CANCEL"): string => `text/calendar; method=${method}`;
const attachedType = (type: string): string => (CALENDAR_TYPE.test(type) ? `${type}; charset=utf-8` : mediaType(type));

/** The composer knows no flowing text: its own part, which is the first, is told so. */
function saysThatItFlows(node: MimeNode): void {
  const [first] = node.childNodes;
  if (first) return saysThatItFlows(first);
  node.setHeader("Content-Type", "text/plain; charset=utf-8; format=flowed");
}

/**
 * The source of a letter (RFC 5322, MIME): the same letter gives the same bytes, but for the boundaries, which are
 * made from its Message-ID. Lines end in CR LF.
 */
export async function writeLetter(letter: Letter): Promise<Uint8Array> {
  const { sender, to, cc, subject, body, plain, messageId, inReplyTo, references, date, files } = letter;
  const base = messageId.replace(/[^A-Za-z0-9]/g, "").slice(0, 40);
  const used = new Set(picturesOf(body));
  const cidOf = (file: number) => `p${file}.${base}@picture`;
  const quotes = quotesOf(body);
  const isShown = ({ id, cid }: LetterFile) =>
    cid === null ? used.has(id) : quotes.some((html) => html.includes(`cid:${cid}`));
  const pictures = plain ? [] : files.filter(isShown);
  // A picture of a quote that was left out is nobody's file.
  const attached = files.filter((file) => file.cid === null && !pictures.includes(file));
  const rich = !plain && isRich(body);
  const composer = new MailComposer({
    from: people([sender])[0]!,
    to: people(to),
    cc: people(cc),
    subject: literal(oneLine(subject)),
    messageId,
    date,
    ...(inReplyTo === null ? {} : { inReplyTo }),
    ...(references.length === 0 ? {} : { references: [...references] }),
    text: flowedOf(body),
    ...(rich ? { html: htmlOf(body, cidOf) } : {}),
    attachments: [
      ...pictures.map(({ id, name, type, data, cid }) => ({
        filename: oneLine(name),
        contentType: mediaType(type),
        content: Buffer.from(data),
        cid: cid ?? cidOf(id),
        contentDisposition: "inline" as const,
      })),
      ...attached.map(({ name, type, data }) => ({
        filename: oneLine(name),
        contentType: attachedType(type),
        content: Buffer.from(data),
        contentDisposition: "attachment" as const,
        // Messages inside messages may not be encoded as a whole (RFC 2046, 5.2.1).
        ...(type.startsWith("message/") ? {} : { contentTransferEncoding: "base64" as const }),
      })),
    ],
    newline: "windows",
    baseBoundary: base,
    disableFileAccess: true,
    disableUrlAccess: true,
  } as Mail.Options);
  const node = composer.compile();
  saysThatItFlows(node);
  return node.build();
}
