import { csv, pdf } from "../files";
import { paragraphs, re, type Kind } from "../story";
import { addDays, dayName, DOMAIN, HUTS, isoDay, longDate, money, OFFICE, SUPPLIERS, weekOf } from "../world";

/** Suppliers: Tolva and Fennimore invoice, the air lift sends slots, others ask and remind. */
export const supply: Kind = (r, date) => {
  const firm = r.pick(SUPPLIERS);
  const goods = r.pick(firm.sells);
  const number = r.int(18_000, 29_999);
  const sum = r.int(4000, 240_000) / 100;
  const due = addDays(date, 30);
  const hut = r.pick(HUTS);
  const slot = addDays(date, r.int(2, 9));
  const form = r.int(0, 3);
  if (form === 0)
    return [
      {
        folder: "Supplies",
        from: firm,
        to: "accounts",
        subject: r.pick([
          `Invoice ${number} for ${goods}`,
          `Invoice ${number}`,
          `${firm.name}: invoice ${number}, due ${longDate(due)}`,
        ]),
        text: paragraphs(
          "Dear customer,",
          `please find attached invoice ${number} for ${goods}, delivered to ${hut.name}. The sum of ${money(sum)} is due on ${longDate(due)}.`,
          r.chance(0.3) && "Our bank details have not changed; be wary of messages that say they have.",
          `${firm.contact}\n${firm.name}`,
        ),
        files: [
          {
            type: "application/pdf",
            content: pdf([
              firm.name,
              `Invoice ${number}`,
              `${isoDay(date)}`,
              "",
              `${goods}`,
              `Total ${sum.toFixed(2)} EUR`,
              `Due ${isoDay(due)}`,
            ]),
            name: `invoice-${number}.pdf`,
            disposition: "attachment",
          },
        ],
        keywords: ["Invoice"],
      },
    ];
  if (form === 1) {
    const subject = r.pick([
      `Delivery slot ${dayName(slot)} ${longDate(slot)}`,
      `Helicopter slot confirmed for ${longDate(slot)}`,
      `${hut.name}: load list by ${dayName(addDays(slot, -1))}`,
    ]);
    return [
      {
        folder: "Supplies",
        from: subject.includes("elicopter") ? SUPPLIERS[3]! : firm,
        to: "wardens",
        subject,
        text: paragraphs(
          `For ${hut.name} we have you down on ${dayName(slot)} ${longDate(slot)} between ${r.int(7, 9)}:00 and ${r.int(10, 12)}:30.`,
          subject.includes("elicopter")
            ? `Loading closes at 06:45. Nets of at most 750 kg, weighed. Two people at the landing place, please, nobody else within fifty metres.`
            : `Our driver goes as far as the quarry barrier; the last bit is yours.`,
          r.pick([
            "In cloud we move to the next clear morning and ring the hut.",
            "Please answer with the name of whoever will be there.",
            "Empty crates back the same way, thank you.",
          ]),
          firm.contact,
        ),
      },
      ...(r.chance(0.4)
        ? [
            {
              folder: "Sent",
              from: { name: OFFICE, address: `wardens@${DOMAIN}` },
              to: [firm],
              subject: re(subject),
              text: paragraphs(`${hut.warden.name} will be there.`, "Hut office"),
              after: r.int(1, 20),
              sent: true,
              quotes: true,
            },
          ]
        : []),
    ];
  }
  if (form === 2)
    return [
      {
        folder: "Supplies",
        from: firm,
        to: "accounts",
        subject: r.pick([`Reminder: invoice ${number}`, `Second reminder, invoice ${number}`, "An open item"]),
        text: paragraphs(
          "Dear hut office,",
          `perhaps it has slipped between two stools: invoice ${number} over ${money(sum)} was due on ${longDate(addDays(date, -r.int(5, 30)))}. If it has crossed with your payment, forget this letter.`,
          `${firm.contact}, ${firm.name}`,
        ),
        keywords: ["Invoice"],
      },
    ];
  return [
    {
      folder: "Supplies",
      from: firm,
      to: "wardens",
      subject: r.pick([`Order for ${hut.name}`, `${goods}: how many?`, "Prices from next month"]),
      text: paragraphs(
        `Good day,`,
        r.pick([
          `do you want ${goods} for ${hut.name} again this month? Same amount as last time would be ${r.int(2, 14)}.`,
          `${goods} go up by ${r.int(2, 9)} per cent from the first. What you order before that goes out at the old price.`,
          `we are out of ${goods} until ${longDate(addDays(date, 12))}. I can offer something like it, or you wait.`,
        ]),
        firm.contact,
      ),
    },
  ];
};

const REPAIRS = [
  "gutter bracket replaced",
  "stove door rehung",
  "one window pane cracked, taped for now",
  "the radio is silent again",
  "mouse found, mouse moved",
  "third step of the porch is loose",
  "nothing broken, for once",
  "the water pump whistles",
];

/** The weekly report of a hut, with its figures as a table. */
export const report: Kind = (r, date) => {
  const hut = r.pick(HUTS);
  const week = weekOf(date);
  const nights = r.int(8, hut.beds * 5);
  const gas = r.int(15, 95);
  const repair = r.pick(REPAIRS);
  const water = r.pick([
    `${hut.water} runs well`,
    `${hut.water} is low, we melt snow for washing`,
    `${hut.water} froze on ${r.pick(["Tuesday", "Thursday"])}, thawed by noon`,
  ]);
  const subject = r.pick([
    `Week ${week} report: ${nights} nights, ${repair === REPAIRS[6] ? "no repairs" : "one repair"}`,
    `Week ${week} report: ${water.includes("low") ? "water low" : `gas at ${gas} %`}`,
    `${hut.name}, week ${week}`,
  ]);
  const text = paragraphs(
    `${nights} guest nights, ${r.int(0, 4)} no-shows. ${repair[0]!.toUpperCase()}${repair.slice(1)}. ${water[0]!.toUpperCase()}${water.slice(1)}. Gas at ${gas} %.`,
    r.pick([
      `Still need: ${r.pick(["lamp oil", "AA batteries", "a new axe handle", "tea, more than you think", "plasters"])}.`,
      "Nothing needed until the next flight.",
      "The guest book is full; please send one with thicker paper.",
      "A party of nine came without a booking. We made room.",
    ]),
    hut.warden.name.split(" ")[0]!,
  );
  return [
    {
      folder: "Wardens",
      from: { name: `${hut.name} warden`, address: hut.warden.address },
      to: "wardens",
      subject,
      text,
      files: r.chance(0.5)
        ? [
            {
              type: "text/csv",
              content: csv([
                ["day", "guests", "meals"],
                ...["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"].map((d) => [
                  d,
                  r.int(0, hut.beds),
                  r.int(0, hut.beds),
                ]),
              ]),
              name: `week-${week}.csv`,
              disposition: "attachment",
            },
          ]
        : [],
    },
  ];
};

export const wardenNote: Kind = (r) => {
  const hut = r.pick(HUTS);
  const other = r.pick(HUTS.filter((h) => h !== hut));
  const [subject, text] = r.pick([
    [
      `Key box at ${hut.name}`,
      `Code changed this morning, the spare is with ${other.warden.name}. Please tell the volunteers, but not by postcard.`,
    ],
    [
      `Swap with ${other.name}?`,
      `Could ${other.warden.name} take my second week in return for New Year? My sister marries, and somebody has to carry the cake.`,
    ],
    [
      "Tick bite, nothing bad",
      "A guest had a tick behind the knee. Taken out, noted in the book, told to see a doctor if it reddens.",
    ],
    [
      "Rescue on Saturday",
      "Two people without lamps were brought down from the ridge at ten. Both fine, both sorry. The rescue asks us to put up the lamp notice again.",
    ],
    ["Chimney", "The sweep has been. He says one more winter, then a new liner. He said the same last year."],
  ] as const);
  return [
    {
      folder: "Wardens",
      from: hut.warden,
      to: "wardens",
      subject,
      text: paragraphs(text, hut.warden.name.split(" ")[0]!),
    },
  ];
};
