import { png } from "../files";
import { asHtml, paragraphs, re, type Kind, type Letter } from "../story";
import type { Random } from "../random";
import { COMMITTEE, guest, HUTS, longDate, OUTFITTERS, ROUTES, type Person } from "../world";

/** Mail of people who write at length, with pictures, or to and fro; and the long letters of lists. */

/** Ways to begin, go on and end, so that two people do not sound alike. */
const VOICES = [
  { hello: "Hello all,", bye: "Warmly,", quirk: "" },
  {
    hello: "Dear wardens and dear office,",
    bye: "With kind regards from the valley,",
    quirk: "I write this at the kitchen table, so forgive the spelling.",
  },
  { hello: "hi", bye: "cheers", quirk: "sent from the train, tunnels permitting" },
  { hello: "Good evening,", bye: "Yours, still with sore knees,", quirk: "" },
  { hello: "To whom it may concern,", bye: "Respectfully,", quirk: "Kindly confirm receipt." },
  { hello: "Servus,", bye: "Until the next snow,", quirk: "My English is from school, my thanks are from the heart." },
] as const;

const LEGS = [
  "we left before six, with lamps, and lost the path only once",
  "the bridge at the second stream is out, so we waded; the water came to the knee",
  "a marmot watched us eat and then inspected every crumb",
  "the fog lifted at the very moment somebody said it never would",
  "there is still snow in the gully, hard enough for steps and too soft for pride",
  "we met nobody until the saddle, and then a whole school",
  "the ladder by the overhang has a loose rung, the fourth from below",
  "our youngest carried the rope the whole way and has told everybody since",
  "somebody has built a cairn where no path goes; we took it down",
  "the spring behind the chapel runs again",
  "thunder came at two, as the bulletin had said, and we were under the roof by ten to",
  "we counted eleven ibex and one very slow fox",
];
const HUT_LIFE = [
  "The stove drew well, the soup was thick, and the game of cards went on until the warden coughed.",
  "The new blankets are a blessing; the third bunk from the window squeaks.",
  "We left the kitchen as we found it, and a jar of plum jam besides.",
  "The tank was low on the second evening, so we washed with snow and nobody died of it.",
  "The visitors' book needs a new pencil. We left ours.",
  "Your warden fixed a strap with wire and would not take a coin for it.",
];
const ASKS = [
  "Could you tell us whether the winter room is open between the seasons?",
  "Is there a place where one may put up a tent if the hut is full?",
  "Would you send me the bill once more? The first one went for a swim.",
  "May we come again with twelve in the first week of July?",
  "Does the bus still run on the Sunday after the fair?",
  "",
];

const cap = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

function tripText(r: Random, who: Person, days: number): string {
  const hut = r.pick(HUTS);
  const voice = r.pick(VOICES);
  const legs = r.some(LEGS, days * 2 + 1);
  const story = Array.from({ length: days }, (_, i) =>
    [
      `${["The first day", "The second day", "The third day", "On the last day"][Math.min(i, 3)]} ${r.pick(ROUTES)}: ${legs[i * 2] ?? "we rested"}.`,
      `${cap(legs[i * 2 + 1] ?? "the weather held")}.`,
      r.pick(HUT_LIFE),
    ].join(" "),
  );
  return paragraphs(
    voice.hello,
    `thank you for ${days === 1 ? "a night" : `${days} days`} at ${hut.name}. ${r.chance(0.5) ? "I promised a report, and here it is." : "Somebody should write down how it was, and I had the pencil."}`,
    ...story,
    r.pick(ASKS) || null,
    voice.quirk || null,
    `${voice.bye}\n${who.name}`,
  );
}

/** A long letter about a tour. */
export const tripReport: Kind = (r) => {
  const who = guest(r);
  const days = r.int(1, 4);
  const hut = r.pick(HUTS);
  const text = tripText(r, who, days);
  const subject = r.pick([
    `${hut.name}, and how we got down again`,
    `A report, as promised (${days} ${days === 1 ? "day" : "days"})`,
    `What the map does not say about ${hut.name}`,
    `Thank you from all of us at the long table`,
    `Eleven ibex, one fox, ${days} ${days === 1 ? "night" : "nights"}`,
    `The ladder below ${hut.name}`,
  ]);
  const letter: Letter = { folder: "Bookings", from: who, to: "bookings", subject, text };
  return [r.chance(0.6) ? { ...letter, html: asHtml(text) } : letter];
};

/** Pictures: mostly of some ten kB, now and then as large as they come out of a camera. */
export const album: Kind = (r, date) => {
  const who = guest(r);
  const hut = r.pick(HUTS);
  const isLarge = r.chance(0.04);
  const count = isLarge ? 2 : r.int(1, 3);
  const side = isLarge ? r.int(560, 760) : r.int(40, 110);
  const text = paragraphs(
    r.pick(VOICES).hello,
    `${count === 1 ? "a picture" : `${count} pictures`} from ${longDate(date)}, ${isLarge ? "in full size, so that you can print them" : "made small for the post"}. ${cap(r.pick(LEGS))}.`,
    r.chance(0.5) ? "Use them for the calendar if you like." : "The second from the left is me.",
    who.name,
  );
  return [
    {
      folder: "Press",
      from: who,
      to: r.pick(["press", "bookings"] as const),
      subject: r.pick([
        `Pictures from ${hut.name}`,
        `The morning of ${longDate(date)}, in colour`,
        `For the wall in the hall`,
        `${hut.name} with a hat of snow`,
      ]),
      text,
      files: Array.from({ length: count }, (_, i) => ({
        type: "image/png",
        content: png(side, Math.floor(side * 0.75), () => r.int(0, 255)),
        name: `${hut.name.toLowerCase().replaceAll(" ", "-")}-${i + 1}.png`,
        disposition: "attachment" as const,
      })),
    },
  ];
};

const POINTS = [
  "The roof is the trust's, the gutters are ours; that is how it was minuted in the spring.",
  "I have asked two carpenters. One can in June, one never writes back.",
  "If we put the beds up by two, we have to put the toilets up by one, and there is no room for that.",
  "My worry is the road, not the money. After the slide nobody drives there in April.",
  "Last year's figures say the opposite, if one takes the school groups out.",
  "Let us not vote before those who live there have been asked.",
  "I withdraw what I said about the solar panels. The neighbour has them, and they hum.",
  "The insurance covers snow on the roof and not snow under it.",
  "Could somebody please write down what we have agreed, so that we can disagree about it in writing?",
  "I am for it, as long as the kitchen stays where it is.",
  "We can borrow the winch from the foresters until the tenth.",
  "A fee of two more a night pays for it in four years; nobody will stay away for the price of a coffee.",
];

/** Committee members to and fro: six to fourteen letters, each on top of the last. */
export const debate: Kind = (r) => {
  const hut = r.pick(HUTS);
  const subject = r.pick([
    `The roof of ${hut.name}`,
    `Fees from next season`,
    `Who pays for the road to ${hut.name}`,
    `Beds, toilets, and the order of things`,
    `A winter room at ${hut.name}: yes or no`,
    `Minutes, and what is missing from them`,
  ]);
  const length = r.int(6, 14);
  const people = r.some(COMMITTEE, Math.min(COMMITTEE.length, r.int(3, 5)));
  const letters: Letter[] = [];
  for (let i = 0; i < length; i++) {
    const from = people[i % people.length]!;
    const [one, two, three] = r.some(POINTS, 3);
    letters.push({
      folder: "Committee",
      from,
      to: people.filter((other) => other !== from),
      subject: i === 0 ? subject : re(subject),
      text: paragraphs(one, r.chance(0.6) && two, r.chance(0.3) && three, from.name.split(" ")[0]),
      headers: [["List-Id", "<committee.larchhuts.example>"]],
      ...(i === 0 ? {} : { after: r.int(1, 30), quotes: i < 5 }),
    });
  }
  return letters;
};

const ARTICLES = [
  ["A stove for one pot", "It weighs less than the spoon, and it boils a litre while you look for the lid."],
  [
    "Laces, again",
    "Eleven knots were tied by eleven readers. Two held. We print both, with pictures, and the name of the aunt who taught them.",
  ],
  ["How wet is wet", "Our tester stood under the same waterfall in nine jackets. Here are nine curves and one cold."],
  [
    "The map that was too good",
    "A reader followed it to a door that is not there any more. What publishers do about that, and what you can.",
  ],
  ["Repair instead of new", "Zips, seams, poles: whom to send them to, what it costs, and how long you will wait."],
  ["Letters", "On whistles, on dogs, on whistling at dogs."],
  [
    "What we got wrong",
    "The pass in the last issue is 40 m lower than we said. Nobody was hurt, several were pleased.",
  ],
  ["A weekend by train", "Two nights, one bag, no car: the line up the side valley runs on Sundays again."],
] as const;

/** A real letter of a list: many pieces, tables within tables, pictures from elsewhere, some thirty kB. */
export const digest: Kind = (r, date) => {
  const from = r.pick(OUTFITTERS);
  const host = from.address.split("@")[1]!;
  const issue = Math.floor(date.getTime() / 86_400_000 / 7) % 900;
  const pieces = r.some(ARTICLES, r.int(4, 7));
  const lead = r.pick(pieces);
  const price = () => `€ ${r.int(9, 390)}.${r.pick(["00", "50", "90", "95"])}`;
  const cell = ([title, teaser]: readonly [string, string], i: number) =>
    `<tr><td style="padding:0 24px 18px;font-family:Georgia,serif;font-size:16px;line-height:24px;color:#333333"><img src="https://img.${host}/i/${issue}/${i}.jpg" alt="${title}" width="552" height="${r.int(180, 320)}" style="display:block;border:0;outline:none;text-decoration:none"><h2 style="margin:14px 0 6px;font-size:22px;line-height:28px;color:#1a1a1a">${title}</h2><p style="margin:0 0 10px">${teaser}</p><table role="presentation" cellpadding="0" cellspacing="0"><tr><td style="border:1px solid #444444;padding:8px 18px"><a href="https://${host}/r/${issue}/${i}?u=${r.int(1e6, 9e6)}" style="color:#1a1a1a;text-decoration:none">Read it</a></td></tr></table></td></tr>`;
  const offer = (i: number) =>
    `<td width="184" valign="top" style="padding:6px;font-family:Arial,sans-serif;font-size:13px;line-height:18px;color:#333333"><img src="https://img.${host}/o/${issue}/${i}.jpg" width="172" height="172" alt="" style="display:block"><b>${r.pick(["Rope", "Lamp", "Flask", "Gaiter", "Mat", "Sack", "Pole", "Cap"])} no. ${r.int(2, 90)}</b><br><s>${price()}</s> ${price()}</td>`;
  const rows = Array.from(
    { length: r.int(2, 5) },
    (_, row) => `<tr>${[0, 1, 2].map((i) => offer(row * 3 + i)).join("")}</tr>`,
  ).join("");
  const style = Array.from(
    { length: 60 },
    (_, i) =>
      `.c${i}{margin:0;padding:${i % 9}px;mso-line-height-rule:exactly}@media(max-width:${320 + i * 4}px){.c${i}{width:100%!important}}`,
  ).join("\n");
  const html = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${from.name} ${issue}</title><style>${style}</style></head><body style="margin:0;background:#f2f0ea"><div style="display:none;max-height:0;overflow:hidden">${lead[1]}</div><table role="presentation" width="100%" cellpadding="0" cellspacing="0"><tr><td align="center"><table role="presentation" width="600" cellpadding="0" cellspacing="0" style="background:#ffffff"><tr><td style="padding:24px;font-family:Georgia,serif;font-size:30px;color:#222222">${from.name}<br><span style="font-size:13px">Issue ${issue}</span></td></tr>${pieces.map(cell).join("\n")}<tr><td style="padding:0 18px"><table role="presentation" width="564">${rows}</table></td></tr><tr><td style="padding:24px;font-family:Arial,sans-serif;font-size:12px;line-height:18px;color:#777777">You get this because you once wrote to ${from.name}.<br><a href="https://${host}/settings?u=${r.int(1000, 9999)}">How often we write</a> · <a href="https://${host}/leave?u=${r.int(1000, 9999)}">Leave the list</a></td></tr></table></td></tr></table><img src="https://count.${host}/o.gif?i=${issue}" width="1" height="1" alt=""></body></html>`;
  return [
    {
      folder: "Lists",
      from,
      to: r.pick(["bookings", "press", "volunteers"] as const),
      subject: r.pick([`${from.name} ${issue}: ${lead[0]}`, `${lead[0]}, and ${pieces.length - 1} more`, lead[0]]),
      text: paragraphs(
        `${from.name}, issue ${issue}`,
        ...pieces.map(([title, teaser], i) => `${title.toUpperCase()}\n${teaser}\nhttps://${host}/r/${issue}/${i}`),
        `Leave the list: https://${host}/leave`,
      ),
      html,
      headers: [
        ["List-Id", `${from.name} <digest.${host}>`],
        [
          "List-Unsubscribe",
          `<mailto:leave-digest@${host}?subject=leave>, <https://${host}/leave?u=${r.int(1000, 9999)}>`,
        ],
        ["List-Unsubscribe-Post", "List-Unsubscribe=One-Click"],
        ["Precedence", "bulk"],
      ],
    },
  ];
};
