import type { Person } from "./world";

/** Writes RFC 5322 messages with MIME parts (RFC 2045 to 2049), in several charsets and encodings. */
export type Charset = "utf-8" | "iso-8859-1" | "windows-1252" | "us-ascii";
export type Encoding = "7bit" | "8bit" | "quoted-printable" | "base64";

export interface Part {
  readonly type: string;
  readonly content: string | Uint8Array;
  readonly charset?: Charset;
  readonly encoding?: Encoding;
  readonly name?: string;
  readonly disposition?: "attachment" | "inline";
  readonly id?: string;
  readonly params?: string;
}

export interface Multipart {
  readonly multipart: string;
  readonly parts: readonly (Part | Multipart)[];
}

export interface Mail {
  readonly from: Person;
  readonly to: readonly Person[];
  readonly cc?: readonly Person[];
  readonly subject: string;
  readonly date: Date;
  /** Minutes east of Greenwich, as the sender's clock is set. */
  readonly zone: number;
  readonly id: string;
  readonly references?: readonly string[];
  readonly headers?: readonly (readonly [string, string])[];
  readonly body: Part | Multipart;
}

const isAscii = (text: string): boolean => /^[\x09\x20-\x7e]*$/.test(text);
const fits = (text: string, charset: Charset): boolean => charset === "utf-8" || /^[\x00-\xff]*$/.test(text);

const bytesOf = (text: string, charset: Charset): Buffer => Buffer.from(text, charset === "utf-8" ? "utf8" : "latin1");

/** An encoded word (RFC 2047) for each piece of the text, so that no line grows too long. */
function word(text: string): string {
  if (isAscii(text)) return text;
  const pieces: string[] = [];
  let piece = "";
  for (const char of text) {
    if (Buffer.byteLength(piece + char) > 42) {
      pieces.push(piece);
      piece = "";
    }
    piece += char;
  }
  pieces.push(piece);
  return pieces.map((p) => `=?utf-8?B?${Buffer.from(p).toString("base64")}?=`).join("\r\n ");
}

const person = ({ name, address }: Person): string => {
  if (!name) return address;
  const shown = isAscii(name) ? (/[^\w ]/.test(name) ? `"${name.replace(/["\\]/g, "\\$&")}"` : name) : word(name);
  return `${shown} <${address}>`;
};

const DAY = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
const MONTH = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
const two = (n: number) => String(n).padStart(2, "0");

export function mailDate(date: Date, zone: number): string {
  const d = new Date(date.getTime() + zone * 60_000);
  const z = Math.abs(zone);
  return `${DAY[d.getUTCDay()]}, ${d.getUTCDate()} ${MONTH[d.getUTCMonth()]} ${d.getUTCFullYear()} ${two(d.getUTCHours())}:${two(d.getUTCMinutes())}:${two(d.getUTCSeconds())} ${zone < 0 ? "-" : "+"}${two(Math.floor(z / 60))}${two(z % 60)}`;
}

function quotedPrintable(bytes: Buffer): string {
  const lines = bytes.toString("latin1").split("\n");
  return lines
    .map((line) => {
      const safe = [...line].map((char, i) => {
        const code = char.charCodeAt(0);
        const last = i === line.length - 1;
        const plain = (code >= 33 && code <= 126 && char !== "=") || (!last && (char === " " || char === "\t"));
        return plain ? char : `=${code.toString(16).toUpperCase().padStart(2, "0")}`;
      });
      const out: string[] = [];
      let now = "";
      for (const piece of safe) {
        if (now.length + piece.length > 75) {
          out.push(`${now}=`);
          now = "";
        }
        now += piece;
      }
      return [...out, now].join("\r\n");
    })
    .join("\r\n");
}

const base64 = (bytes: Uint8Array): string =>
  (
    Buffer.from(bytes)
      .toString("base64")
      .match(/.{1,76}/g) ?? []
  ).join("\r\n");

function encode(bytes: Buffer, encoding: Encoding): Buffer {
  if (encoding === "base64") return Buffer.from(base64(bytes), "latin1");
  if (encoding === "quoted-printable") return Buffer.from(quotedPrintable(bytes), "latin1");
  return Buffer.from(bytes.toString("latin1").replace(/\n/g, "\r\n"), "latin1");
}

function writePart(part: Part | Multipart, boundary: string): { headers: string[]; body: Buffer } {
  if ("multipart" in part) {
    const pieces = part.parts.map((inner, i) => {
      const { headers, body } = writePart(inner, `${boundary}.${i}`);
      return Buffer.concat([
        Buffer.from(`--${boundary}\r\n${headers.join("\r\n")}\r\n\r\n`, "latin1"),
        body,
        Buffer.from("\r\n"),
      ]);
    });
    return {
      headers: [`Content-Type: multipart/${part.multipart}; boundary="${boundary}"`],
      body: Buffer.concat([...pieces, Buffer.from(`--${boundary}--\r\n`)]),
    };
  }
  const text = typeof part.content === "string";
  const wanted = part.charset ?? "utf-8";
  const charset = text && !fits(part.content as string, wanted) ? "utf-8" : wanted;
  const bytes = text ? bytesOf(part.content as string, charset) : Buffer.from(part.content as Uint8Array);
  const asked = part.encoding ?? (text ? "quoted-printable" : "base64");
  const encoding = asked === "7bit" && bytes.some((b) => b > 126) ? "quoted-printable" : asked;
  const name = part.name ? `; ${text && part.type !== "text/csv" ? "name" : "name"}="${part.name}"` : "";
  const headers = [
    `Content-Type: ${part.type}${text && part.type.startsWith("text/") ? `; charset=${charset}` : ""}${part.params ?? ""}${name}`,
    `Content-Transfer-Encoding: ${encoding}`,
  ];
  if (part.disposition)
    headers.push(`Content-Disposition: ${part.disposition}${part.name ? `; filename="${part.name}"` : ""}`);
  if (part.id) headers.push(`Content-ID: <${part.id}>`);
  return { headers, body: encode(bytes, encoding) };
}

/** The message as it would arrive, with lines ended by CRLF. */
export function writeMail(mail: Mail): Buffer {
  const { headers, body } = writePart(mail.body, `=_${mail.id.replace(/[^a-z0-9]/gi, "").slice(0, 24)}`);
  const lines = [
    ...(mail.headers ?? []).filter(([name]) => name === "Received").map(([name, value]) => `${name}: ${value}`),
    `Date: ${mailDate(mail.date, mail.zone)}`,
    `From: ${person(mail.from)}`,
    `To: ${mail.to.map(person).join(",\r\n ")}`,
    ...(mail.cc?.length ? [`Cc: ${mail.cc.map(person).join(",\r\n ")}`] : []),
    `Subject: ${word(mail.subject)}`,
    `Message-ID: <${mail.id}>`,
    ...(mail.references?.length
      ? [
          `In-Reply-To: <${mail.references.at(-1)}>`,
          `References: ${mail.references.map((id) => `<${id}>`).join("\r\n ")}`,
        ]
      : []),
    ...(mail.headers ?? []).filter(([name]) => name !== "Received").map(([name, value]) => `${name}: ${value}`),
    "MIME-Version: 1.0",
    ...headers,
  ];
  const end = Buffer.from(body.at(-1) === 10 ? "" : "\r\n");
  return Buffer.concat([Buffer.from(`${lines.join("\r\n")}\r\n\r\n`, "utf8"), body, end]);
}
