import { parseWithText } from "@/core/mail";
import { writeMail } from "./mime";
import { seeded } from "./random";
import { re } from "./story";

/** What comes back of letters that the office sends: answers in character, delivery reports, notes that nobody is in. */

export type Comes = "answer" | "bounce" | "away";

export interface Received {
  readonly recipient: string;
  readonly from: string;
  readonly raw: Uint8Array;
}

const THANKS = [
  "Thank you, that is all we needed to know. We look forward to it.",
  "Many thanks for the quick answer. That suits us well.",
  "Great, thank you. I have passed it on to the others.",
  "Thanks. One of us eats no meat, I hope that is no trouble.",
  "That is fine with us. Is there a place to leave the bicycles?",
  "Thank you for letting me know. I will ring should anything change.",
  "Good to hear. Could you send the invoice to this address, please?",
  "Thanks, we will be there before dark.",
];
const ENDS = ["Best wishes", "Kind regards", "With thanks", "See you soon", "All the best"];

const numberOf = (text: string): number => {
  let sum = 7;
  for (const char of text) sum = (sum * 31 + char.charCodeAt(0)) % 2_147_483_647;
  return sum;
};

const quoted = (text: string): string =>
  text
    .trimEnd()
    .split("\n")
    .slice(0, 40)
    .map((line) => (line.startsWith(">") ? `>${line}` : `> ${line}`))
    .join("\n");

const nameIn = (address: string): string =>
  address
    .split("@")[0]!
    .split(/[._-]/)
    .map((part) => part.slice(0, 1).toUpperCase() + part.slice(1))
    .join(" ");

/** A report as mail servers write it (RFC 3464). */
function report({ recipient, from, raw }: Received, at: Date, id: string): Uint8Array {
  const domain = recipient.split("@")[1] ?? "mail.example";
  const head =
    Buffer.from(raw)
      .toString("latin1")
      .split(/\r?\n\r?\n/)[0] ?? "";
  return writeMail({
    from: { name: "Mail delivery", address: `mailer-daemon@${domain}` },
    to: [{ name: "", address: from }],
    subject: "Your message could not be delivered",
    date: at,
    zone: 0,
    id,
    headers: [["Auto-Submitted", "auto-replied"]],
    body: {
      multipart: "report; report-type=delivery-status",
      parts: [
        {
          type: "text/plain",
          charset: "utf-8",
          encoding: "7bit",
          content: `Your message could not be delivered to ${recipient}.\n\nThe mailbox is full (552 5.2.2).\n`,
        },
        {
          type: "message/delivery-status",
          encoding: "7bit",
          content: `Reporting-MTA: dns; mx.${domain}\n\nFinal-Recipient: rfc822; ${recipient}\nAction: failed\nStatus: 5.2.2\nDiagnostic-Code: smtp; 552 5.2.2 mailbox full\n`,
        },
        { type: "text/rfc822-headers", encoding: "8bit", content: `${head}\n` },
      ],
    },
  });
}

/** Writes what comes back; the same for the same letter. */
export async function answerTo(comes: Comes, received: Received, at: Date): Promise<Uint8Array> {
  const { recipient, from, raw } = received;
  const { parsed, text } = await parseWithText(raw, { now: at });
  const number = numberOf(`${recipient} ${parsed.messageId ?? ""}`);
  const id = `a${number.toString(36)}.${at.getTime().toString(36)}@${recipient.split("@")[1] ?? "mail.example"}`;
  const date = new Date(at.getTime() - (at.getTime() % 1000));
  if (comes === "bounce") return report(received, date, id);
  const r = seeded(number);
  const met = [...parsed.to, ...parsed.cc].find(({ address }) => address.toLowerCase() === recipient.toLowerCase());
  const name = met?.name || nameIn(recipient);
  const first = name.split(" ")[0]!;
  const body =
    comes === "away"
      ? `I am away until next week and read no mail. Your message is kept.\n\n${first}\n`
      : `Hello,\n\n${r.pick(THANKS)}\n\n${r.pick(ENDS)}\n${first}\n\nOn ${parsed.date.toUTCString().slice(0, 16)}, ${parsed.from.name || parsed.from.address} wrote:\n${quoted(text)}\n`;
  return writeMail({
    from: { name, address: recipient },
    to: [{ name: parsed.from.name, address: from }],
    subject: comes === "away" ? `Away: ${parsed.subject}` : re(parsed.subject),
    date,
    zone: 60,
    id,
    references: [...parsed.references, ...(parsed.messageId === null ? [] : [parsed.messageId])].map((one) =>
      one.replace(/^<|>$/g, ""),
    ),
    headers: comes === "away" ? [["Auto-Submitted", "auto-replied"]] : [],
    body: { type: "text/plain", charset: "utf-8", encoding: "quoted-printable", content: body },
  });
}
