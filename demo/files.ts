import { deflateSync } from "node:zlib";

/** Small real files to attach: each is valid in its format. */

/** A PDF 1.4 page with a few lines of text. */
export function pdf(lines: readonly string[]): Uint8Array {
  const safe = (text: string) => text.replace(/[^\x20-\x7e]/g, "?").replace(/[()\\]/g, "\\$&");
  const stream = `BT /F1 11 Tf 56 780 Td 16 TL ${lines.map((line) => `(${safe(line)}) Tj T*`).join(" ")} ET`;
  const objects = [
    "<< /Type /Catalog /Pages 2 0 R >>",
    "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
    "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>",
    `<< /Length ${stream.length} >>\nstream\n${stream}\nendstream`,
    "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
  ];
  let out = "%PDF-1.4\n";
  const offsets = objects.map((object, i) => {
    const at = out.length;
    out += `${i + 1} 0 obj\n${object}\nendobj\n`;
    return at;
  });
  const start = out.length;
  out += `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${offsets.map((at) => `${String(at).padStart(10, "0")} 00000 n \n`).join("")}`;
  out += `trailer\n<< /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${start}\n%%EOF\n`;
  return Buffer.from(out, "latin1");
}

/** A GIF89a of one colour, without compression tricks: a picture that every program shows. */
export function gif(red: number, green: number, blue: number): Uint8Array {
  const head = [0x47, 0x49, 0x46, 0x38, 0x39, 0x61, 2, 0, 2, 0, 0x80, 0, 0, red, green, blue, 255, 255, 255];
  return Uint8Array.from([...head, 0x2c, 0, 0, 0, 0, 2, 0, 2, 0, 0, 2, 3, 0x84, 0x51, 0x05, 0, 0x3b]);
}

/** CRC-32 of PNG's chunks (ISO 3309). */
const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});

function chunk(type: string, data: Uint8Array): Buffer {
  const body = Buffer.concat([Buffer.from(type, "latin1"), data]);
  let crc = 0xffffffff;
  for (const byte of body) crc = CRC[(crc ^ byte) & 255]! ^ (crc >>> 8);
  const out = Buffer.alloc(body.length + 8);
  out.writeUInt32BE(data.length, 0);
  body.copy(out, 4);
  out.writeUInt32BE((crc ^ 0xffffffff) >>> 0, body.length + 4);
  return out;
}

/** A PNG in true colour. Noise does not compress, so it is as large as a picture of that size from a camera. */
export function png(width: number, height: number, byte: () => number): Uint8Array {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([8, 2, 0, 0, 0], 8);
  const pixels = Buffer.alloc((width * 3 + 1) * height);
  // Each line begins with its filter: none.
  for (let y = 0; y < height; y++) for (let x = 1; x <= width * 3; x++) pixels[y * (width * 3 + 1) + x] = byte();
  const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  return Buffer.concat([
    signature,
    chunk("IHDR", head),
    chunk("IDAT", deflateSync(pixels, { level: 1 })),
    chunk("IEND", Buffer.alloc(0)),
  ]);
}

const stamp = (date: Date): string => `${date.toISOString().replace(/[-:]/g, "").slice(0, 15)}Z`;

/** An invitation (RFC 5545, RFC 5546). */
export function ics(event: {
  uid: string;
  title: string;
  place: string;
  from: Date;
  hours: number;
  organiser: string;
  to: string;
  sent: Date;
}): string {
  return [
    "BEGIN:VCALENDAR",
    "VERSION:2.0",
    "PRODID:-//Hut office//Rota//EN",
    "METHOD:REQUEST",
    "BEGIN:VEVENT",
    `UID:${event.uid}`,
    `DTSTAMP:${stamp(event.sent)}`,
    `DTSTART:${stamp(event.from)}`,
    `DTEND:${stamp(new Date(event.from.getTime() + event.hours * 3_600_000))}`,
    `SUMMARY:${event.title}`,
    `LOCATION:${event.place}`,
    `ORGANIZER:mailto:${event.organiser}`,
    `ATTENDEE;RSVP=TRUE:mailto:${event.to}`,
    "END:VEVENT",
    "END:VCALENDAR",
    "",
  ].join("\n");
}

/** A contact (RFC 6350). */
export const vcf = (name: string, address: string, phone: string): string =>
  ["BEGIN:VCARD", "VERSION:4.0", `FN:${name}`, `EMAIL:${address}`, `TEL:${phone}`, "END:VCARD", ""].join("\n");

export const csv = (rows: readonly (readonly (string | number)[])[]): string =>
  rows.map((row) => row.join(";")).join("\n") + "\n";
