import { mboxEntry } from "@/core/mail";

/** Twelve letters to practise on: of each kind that a macro is for. Nobody wrote them, and nothing reaches anybody. */

/** Addresses there are of nobody: a letter to one is taken as sent, and goes nowhere. */
export const PRACTICE_DOMAIN = "practice.larchhuts.example";
/** By its list, practice mail is found wherever it was put. */
export const PRACTICE_LIST = `drill.${PRACTICE_DOMAIN}`;

interface PracticeLetter {
  readonly from: readonly [name: string, box: string];
  readonly subject: string;
  /** Days before now. */
  readonly ago: number;
  readonly text: string;
}

const LETTERS: readonly PracticeLetter[] = [
  {
    from: ["Aske Lindqvist", "aske"],
    subject: "Four beds at Tarn Hut, 12 to 14 March?",
    ago: 9,
    text: "Hello,\n\nis there room for four of us at Tarn Hut from 12 to 14 March? We bring our own sleeping bags.\n\nAske Lindqvist",
  },
  {
    from: ["Paloma Reyes", "paloma"],
    subject: "We must cancel Friday",
    ago: 8,
    text: "Dear hut office,\n\none of us has broken a wrist: we cannot come on Friday. Please give our two beds to somebody else.\n\nPaloma",
  },
  {
    from: ["Scree & Sons, stoves", "accounts"],
    subject: "Invoice 4471: chimney sweeping, Quarry Lodge",
    ago: 7,
    text: "For sweeping the chimney of Quarry Lodge we charge 186.00. Please pay within fourteen days.\n\nScree & Sons",
  },
  {
    from: ["Ridge Notes", "notes"],
    subject: "Eleven walks you can do in wool socks",
    ago: 6,
    text: "Issue 88. Eleven walks, nine socks, and a word about blisters. You get this since you once asked for a map.",
  },
  {
    from: ["Warden of Raven Step", "raven"],
    subject: "The pump has stopped again",
    ago: 5,
    text: "The pump at Raven Step has stopped for the third time this month. I carry water from the stream. Can somebody come before the weekend?",
  },
  {
    from: ["Bente Aaltonen", "bente"],
    subject: "Lost: one blue mitten",
    ago: 4,
    text: "I left a blue mitten on the drying rack at Larch Saddle. Left hand. It is of no worth to anybody but me.",
  },
  {
    from: ["Mountain weather desk", "weather"],
    subject: "Forecast: snow above 1,400 m from Thursday",
    ago: 4,
    text: "Thursday: snow above 1,400 m, wind from the north-west at 60 km/h. Friday: clearing. Saturday: cold and fine.",
  },
  {
    from: ["Iolo Prys", "iolo"],
    subject: "Group of 22 in May: which hut would you advise?",
    ago: 3,
    text: "We are a school group of 22, two nights in the second half of May. Which of your huts would hold us, and what would it cost?\n\nIolo Prys",
  },
  {
    from: ["Cheap Tents Tonight", "tents"],
    subject: "Only tonight: 70 % off everything!!",
    ago: 2,
    text: "Tents! Tents! Tents! Only tonight, and then again tomorrow.",
  },
  {
    from: ["Dorota Wilk", "dorota"],
    subject: "Minutes of the committee, and three things for you",
    ago: 2,
    text: "Attached to nothing, as the printer is broken: 1. the keys of Upper Corrie; 2. who orders wood; 3. the summer rota, by the 20th.\n\nDorota",
  },
  {
    from: ["Jonas Feld", "jonas"],
    subject: "Thank you",
    ago: 1,
    text: "A short word of thanks: the soup at Whin Ridge saved our day. No answer needed.",
  },
  {
    from: ["Aske Lindqvist", "aske"],
    subject: "Re: Four beds at Tarn Hut, 12 to 14 March?",
    ago: 0,
    text: "Hello again,\n\nwe are five now. Is that still possible?\n\nAske Lindqvist",
  },
];

export const PRACTICE_COUNT = LETTERS.length;

const DAY_MS = 86_400_000;

/**
 * The letters as the entries of an mbox file (RFC 4155).
 * @param to whom they came to
 * @param mark makes them other letters than those of another time
 */
export function practiceMail(to: string, mark: string, now: Date): readonly Uint8Array[] {
  return LETTERS.map(({ from: [name, box], subject, ago, text }, i) => {
    const date = new Date(now.getTime() - ago * DAY_MS - (LETTERS.length - i) * 60_000);
    const head = [
      `From: "${name}" <${box}@${PRACTICE_DOMAIN}>`,
      `To: <${to}>`,
      `Subject: ${subject}`,
      `Date: ${date.toUTCString().replace("GMT", "+0000")}`,
      `Message-ID: <${mark}.${i}@${PRACTICE_DOMAIN}>`,
      ...(subject.startsWith("Re: ") ? [`In-Reply-To: <${mark}.0@${PRACTICE_DOMAIN}>`] : []),
      `List-Id: <${PRACTICE_LIST}>`,
      "Content-Type: text/plain; charset=utf-8",
    ];
    return mboxEntry(Buffer.from(`${head.join("\n")}\n\n${text}\n`), `${box}@${PRACTICE_DOMAIN}`, date);
  });
}
