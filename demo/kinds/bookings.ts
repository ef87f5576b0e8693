import { csv, gif } from "../files";
import { asHtml, paragraphs, re, type Kind } from "../story";
import {
  addDays,
  dayName,
  DIETS,
  DOMAIN,
  GROUPS,
  guest,
  HUTS,
  longDate,
  money,
  OFFICE,
  ROUTES,
  type Person,
} from "../world";

const office = (alias: "bookings" | "accounts"): Person => ({ name: OFFICE, address: `${alias}@${DOMAIN}` });
const GREETINGS = ["Hello,", "Good morning,", "Dear hut office,", "Hello everyone,", "Dear Sir or Madam,", "Hi there,"];
const GOODBYES = [
  "Kind regards,",
  "Many thanks,",
  "With best wishes,",
  "Thank you and see you up there,",
  "Greetings from down in the rain,",
  "Thanks in advance,",
];

/** A request, the office's offer, and often the answer. */
export const request: Kind = (r, date) => {
  const who = guest(r);
  const first = who.name.split(" ")[0]!;
  const hut = r.pick(HUTS);
  const size = r.chance(0.6) ? r.int(2, 8) : r.int(9, Math.min(24, hut.beds));
  const nights = r.int(1, 3);
  const arrival = addDays(date, r.int(9, 120));
  const group = r.pick(GROUPS);
  const diet = r.pick(DIETS);
  const big = size > 8;
  const night = nights === 1 ? "one night" : `${["", "", "two", "three"][nights]} nights`;
  const subject = r.pick([
    `Request: ${size} beds, ${night}${diet.includes("meat") ? ", vegetarian" : ""}`,
    `${hut.name} on ${longDate(arrival)}, ${size} people`,
    `Is there room at ${hut.name} around ${longDate(arrival)}?`,
    big ? `Group of ${size} for ${hut.name}` : `Beds for ${size} at ${hut.name}`,
    `${dayName(arrival)} ${longDate(arrival)}: ${night} for ${size}`,
    `${group.charAt(0).toUpperCase()}${group.slice(1)} at ${hut.name}`,
    `Up ${r.pick(ROUTES).replace(/^from /, "")}, then ${hut.name}`,
    `${who.name.split(" ")[0]} and ${size - 1} others, ${longDate(arrival)}`,
    `May we come to ${hut.name} with ${size === 1 ? "a dog" : `${size - 1} friends`}?`,
    `${hut.name}: sleeping places, and a question about the stove`,
    `For the diary: ${longDate(arrival)}, ${hut.name}`,
  ]);
  const ask = r.pick([
    `we are ${big ? `${group}, ${size} in all,` : `${size} walkers`} and would like ${night} at ${hut.name} from ${dayName(arrival)} ${longDate(arrival)}.`,
    `do you still have ${size} places at ${hut.name} for ${night}, arriving on ${longDate(arrival)}? It would be ${big ? group : "friends who have walked together for years"}.`,
    `could you put ${size} of us up at ${hut.name}? We would come up ${r.pick(ROUTES)} on ${dayName(arrival)} ${longDate(arrival)} and stay ${night}.`,
  ]);
  const extra = r.pick([
    "If that day is full, the one after would do as well.",
    "We can carry our own bedding if that helps.",
    "Is the small dormitory free? Two of us snore, and are honest about it.",
    "Do you take cards at the hut, or should we pay beforehand?",
    `We have been to ${r.pick(HUTS.filter((h) => h !== hut)).name} before and know how things are done.`,
    "Two of the group are under twelve: is there a family price?",
  ]);
  const text = paragraphs(
    r.pick(GREETINGS),
    ask,
    r.chance(0.7) && diet,
    r.chance(0.8) && extra,
    `${r.pick(GOODBYES)}\n${first}`,
  );
  const rows = Array.from({ length: size }, (_, i) => [i + 1, guest(r).name, r.int(9, 71)]);
  const files =
    big && r.chance(0.5)
      ? [
          {
            type: "text/csv",
            content: csv([["no", "name", "age"], ...rows]),
            name: "party-list.csv",
            disposition: "attachment" as const,
          },
        ]
      : [];
  const price = money(size * nights * r.pick([28, 32, 36]));
  const answer = paragraphs(
    `Dear ${first},`,
    `thank you for writing. We have noted ${size} beds at ${hut.name} for ${night} from ${longDate(arrival)}. The price is ${price} with half board; ${size > 8 ? "a third of it is due now, the rest at the hut" : "you pay at the hut, in cash or by card"}.`,
    `The way up ${r.pick(ROUTES)} is ${r.pick(["open", "open, with some snow in the upper gully", "open again since the bridge was mended"])}. ${hut.warden.name} expects you before six.`,
    `Your hut office`,
  );
  const confirm = paragraphs(
    r.pick([
      `That is perfect, we take it.`,
      `Wonderful, please book us in.`,
      `Yes please, all of it. The deposit went out this morning.`,
      `Agreed. We are ${size - 1} now, one has broken a toe; is that all right?`,
    ]),
    first,
  );
  const folder = big ? "Bookings/Groups" : "Bookings";
  const keywords = arrival.getUTCMonth() >= 10 || arrival.getUTCMonth() <= 3 ? ["Winter season"] : [];
  return [
    {
      folder,
      from: who,
      to: "bookings",
      subject,
      text,
      files,
      keywords,
      ...(r.chance(0.4) ? { html: asHtml(text) } : {}),
    },
    {
      folder: "Sent",
      from: office("bookings"),
      to: [who],
      subject: re(subject),
      text: answer,
      after: r.int(2, 40),
      sent: true,
      quotes: true,
    },
    ...(r.chance(0.6)
      ? [
          {
            folder,
            from: who,
            to: "bookings" as const,
            subject: re(subject),
            text: confirm,
            after: r.int(1, 30),
            quotes: true,
          },
        ]
      : []),
  ];
};

/** A booking that is there already, moved to another day or hut. */
export const change: Kind = (r, date) => {
  const who = guest(r);
  const hut = r.pick(HUTS);
  const size = r.int(2, 18);
  const was = addDays(date, r.int(6, 60));
  const now = addDays(was, r.pick([-2, -1, 1, 2, 7]));
  const subject = r.pick([
    `Moving our group of ${size} to ${dayName(now)}`,
    `Change to our booking on ${longDate(was)}`,
    `${hut.name}: ${dayName(now)} instead of ${dayName(was)}?`,
    `One more for ${longDate(was)}`,
  ]);
  const more = subject.startsWith("One more");
  const text = paragraphs(
    r.pick(GREETINGS),
    more
      ? `we are booked at ${hut.name} on ${longDate(was)} with ${size}. My ${r.pick(["brother-in-law", "daughter", "neighbour", "old climbing partner"])} would like to join us. Is there one more bed? A mattress in the corridor would do.`
      : `could we shift our booking at ${hut.name} from ${dayName(was)} ${longDate(was)} to ${dayName(now)} ${longDate(now)}? ${r.pick(["The bus does not run that day.", "The forecast for the first day looks dreadful.", "Two of the drivers have to work.", "We misread the calendar, with apologies."])}`,
    r.chance(0.5) && "If it cannot be done we will keep the old date, of course.",
    `${r.pick(GOODBYES)}\n${who.name}`,
  );
  return [{ folder: size > 8 ? "Bookings/Groups" : "Bookings", from: who, to: "bookings", subject, text }];
};

export const cancellation: Kind = (r, date) => {
  const who = guest(r);
  const hut = r.pick(HUTS);
  const day = addDays(date, r.int(2, 30));
  const paid = money(r.int(3, 20) * 28);
  const subject = r.pick([
    "Cancelling, with apologies",
    `We cannot come on ${longDate(day)}`,
    `Cancellation: ${hut.name}, ${longDate(day)}`,
    "Refund for the closed weekend",
    "Our deposit",
  ]);
  const refund = subject.startsWith("Refund") || subject === "Our deposit";
  const why = r.pick([
    "Our driver has broken his wrist.",
    "Half the group has the flu.",
    "The school does not let them go in this weather.",
    "A death in the family; please understand that I am short.",
    "The train strike leaves us no way to get there.",
  ]);
  const text = paragraphs(
    r.pick(GREETINGS),
    refund
      ? `we paid ${paid} for ${hut.name} on ${longDate(day)}, and then the hut was closed. ${r.pick(["Could you send it back to the account it came from?", "Would you rather keep it for another date? We would be happy with either.", "Three weeks have gone by and nothing has arrived."])}`
      : `I am sorry to say that we have to give up our places at ${hut.name} on ${longDate(day)}. ${why}`,
    !refund &&
      r.pick([
        "Is any of the deposit coming back?",
        "Please give the beds to somebody else.",
        "Can we come in spring instead, with the same deposit?",
      ]),
    `${r.pick(GOODBYES)}\n${who.name}`,
  );
  return [
    { folder: "Cancellations", from: who, to: refund ? "accounts" : "bookings", subject, text },
    ...(r.chance(0.5)
      ? [
          {
            folder: "Sent",
            from: office("accounts"),
            to: [who],
            subject: re(subject),
            sent: true,
            quotes: true,
            after: r.int(4, 50),
            text: paragraphs(
              `Dear ${who.name},`,
              r.pick([
                `we have sent ${paid} back today; banks take three days.`,
                "we have kept your deposit for another date, valid for a year.",
                "your places have gone to a party from the waiting list, so nothing is owed by either side.",
              ]),
              "Your hut office",
            ),
          },
        ]
      : []),
  ];
};

export const lost: Kind = (r) => {
  const who = guest(r);
  const hut = r.pick(HUTS);
  const thing = r.pick([
    "left boot, green laces",
    "a grey child's mitten with a fox on it",
    "reading glasses in a tin",
    "a ring, silver, worn thin",
    "one trekking pole, cork grip",
    "a red down jacket, size M",
    "the charger of a camera",
    "a paper map with our whole route in pencil",
    "a stuffed rabbit called Major",
  ]);
  const subject = r.pick([
    `Lost: ${thing}, ${hut.name}`,
    `Left behind at ${hut.name}`,
    `Did anybody find ${/^(?:a|one|the|my) /.test(thing) ? thing : `my ${thing}`}?`,
  ]);
  const picture = {
    type: "image/gif",
    content: gif(r.int(20, 200), r.int(60, 160), r.int(40, 140)),
    name: "like-this-one.gif",
    disposition: "inline" as const,
    id: `pic${r.int(1000, 9999)}@${who.address.split("@")[1]}`,
  };
  const withPicture = r.chance(0.35);
  const text = paragraphs(
    r.pick(GREETINGS),
    `I believe I left something at ${hut.name} ${r.pick(["last weekend", "on our way down on Sunday", "in the drying room", "under the bench by the stove"])}: ${thing}.`,
    r.pick([
      "It is worth nothing to anybody but me.",
      "I would pay the postage gladly.",
      "Could the warden have a look in the box by the door?",
      "My daughter has not slept properly since.",
    ]),
    withPicture && "It looks like the one in the picture.",
    `${r.pick(GOODBYES)}\n${who.name}`,
  );
  return [
    {
      folder: "Lost property",
      from: who,
      to: "wardens",
      subject,
      text,
      ...(withPicture
        ? {
            html: asHtml(text, `<p><img src="cid:${picture.id}" alt="like this one" width="120" height="80"></p>`),
            files: [picture],
          }
        : {}),
    },
  ];
};

export const question: Kind = (r) => {
  const who = guest(r);
  const hut = r.pick(HUTS);
  const [subject, ask] = r.pick([
    [
      "Dog at the hut?",
      "may our dog come along? She is small, old and very quiet, and sleeps in the porch without complaint.",
    ],
    [
      "Could our scouts help with firewood?",
      "we are twenty-two scouts plus four leaders and could carry and split wood for a day in return for a roof. Would that be of use to anybody?",
    ],
    [
      `Is the ladder at ${hut.name} open?`,
      `the map shows a ladder below ${hut.name}. Is it in place already, and would you take a ten-year-old over it?`,
    ],
    [
      "Photographs of the sunrise",
      `would the warden at ${hut.name} mind if I set up a camera on the terrace before five? I will be as quiet as snow.`,
    ],
    [
      "Electric bicycles",
      "we come by bicycle as far as the quarry. Can they be locked up and charged at Quarry Lodge over night?",
    ],
    [
      "Water on the way",
      `is there water between the car park and ${hut.name} in this dry spell, or should we carry it all?`,
    ],
    ["Key for the winter room", `is the winter room at ${hut.name} locked this year, and if so, who has the key?`],
  ] as const);
  return [
    {
      folder: "Bookings",
      from: who,
      to: "bookings",
      subject,
      text: paragraphs(r.pick(GREETINGS), ask, `${r.pick(GOODBYES)}\n${who.name}`),
    },
  ];
};
