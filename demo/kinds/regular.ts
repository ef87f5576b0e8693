import { ics, pdf } from "../files";
import { asHtml, paragraphs, re, type Kind } from "../story";
import { addDays, COMMITTEE, dayName, DOMAIN, HUTS, isoDay, longDate, money, VOLUNTEERS, type Person } from "../world";

const LIST = (id: string): (readonly [string, string])[] => [
  ["List-Id", `<${id}>`],
  ["List-Unsubscribe", `<mailto:leave@${id}>, <https://${id}/leave?t=9f3c>`],
  ["List-Unsubscribe-Post", "List-Unsubscribe=One-Click"],
];

const DESK: Person = { name: "Avalanche Desk", address: "bulletin@avalanchedesk.example" };
const WEATHER: Person = { name: "Mountain Weather Service", address: "forecast@mountainweather.example" };

export const bulletin: Kind = (r, date) => {
  const winter = date.getUTCMonth() >= 10 || date.getUTCMonth() <= 3;
  const height = r.int(17, 25) * 100;
  const level = r.pick(["low", "moderate", "considerable", "considerable", "high"]);
  const number = Math.floor((date.getTime() / 86_400_000) % 400);
  if (winter && r.chance(0.6))
    return [
      {
        folder: "Weather",
        from: DESK,
        to: "wardens",
        subject: `Bulletin ${number}: ${level} above ${height.toLocaleString("en")} m`,
        headers: LIST("bulletin.avalanchedesk.example"),
        text: paragraphs(
          `Danger ${level} above ${height} m, ${r.pick(["on slopes facing north to east", "in all aspects", "near ridges and in gullies"])}.`,
          r.pick([
            `Wind slab of ${r.int(10, 40)} cm on a weak layer of ${r.pick(["surface hoar", "faceted crystals"])}. Single skiers may set it off.`,
            "Wet slides from late morning on. Be back before the sun is on the slope.",
            "The snow has settled well. Old tracks are the best guide.",
          ]),
          `Next bulletin at 17:00.`,
        ),
      },
    ];
  const days = [1, 2, 3].map((d) => addDays(date, d));
  return [
    {
      folder: "Weather",
      from: WEATHER,
      to: "wardens",
      subject: r.pick([
        `Three days: ${r.pick(["fine, then thunder", "west wind and showers", "fog in the valleys, sun above", "first snow to 1,600 m"])}`,
        `Forecast ${isoDay(date)}`,
        `Storm warning for ${dayName(days[0]!)}`,
      ]),
      headers: LIST("forecast.mountainweather.example"),
      text: paragraphs(
        days
          .map(
            (d) =>
              `${dayName(d).padEnd(10)} ${r.pick(["sunny", "cloudy", "showers", "snow showers", "thunder after noon"])}, wind ${r.pick(["W", "NW", "S", "NE"])} ${r.int(10, 85)} km/h, freezing level ${r.int(12, 38) * 100} m`,
          )
          .join("\n"),
        "Figures for 2,000 m.",
      ),
    },
  ];
};

export const rota: Kind = (r, date) => {
  const who = r.pick(VOLUNTEERS);
  const hut = r.pick(HUTS);
  const from = addDays(
    new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth(), date.getUTCDate(), 8)),
    r.int(6, 40),
  );
  const task = r.pick([
    "wood weekend",
    "path repairs",
    "spring cleaning",
    "painting the shutters",
    "blanket count",
    "carrying up the solar panels",
  ]);
  const title = `${task[0]!.toUpperCase()}${task.slice(1)}, ${hut.name}`;
  if (r.chance(0.45))
    return [
      {
        folder: "Volunteers",
        from: who,
        to: "volunteers",
        subject: `Invitation: ${title}, ${longDate(from)}`,
        text: "",
        body: {
          multipart: "alternative",
          parts: [
            {
              type: "text/plain",
              content: paragraphs(
                `${title} on ${dayName(from)} ${longDate(from)} from nine. Bring gloves; soup is there.`,
                who.name,
              ),
            },
            {
              type: "text/calendar",
              params: "; method=REQUEST",
              content: ics({
                uid: `rota-${r.int(10_000, 99_999)}@${who.address.split("@")[1]}`,
                title,
                place: hut.name,
                from,
                hours: 7,
                organiser: who.address,
                to: `volunteers@${DOMAIN}`,
                sent: date,
              }),
              encoding: "base64",
            },
          ],
        },
      },
    ];
  return [
    {
      folder: "Volunteers",
      from: who,
      to: "volunteers",
      subject: r.pick([
        `${title}: I can come`,
        `Rota for ${longDate(from)}`,
        `Not this time: ${task}`,
        `Who drives for the ${task}?`,
      ]),
      text: paragraphs(
        r.pick([
          "Put me down for both days.",
          "I can do the Saturday, not the Sunday.",
          "My knee says no, my heart says next month.",
          `I have four seats from the station and a trailer. ${r.pick(VOLUNTEERS.filter((v) => v !== who)).name} knows where.`,
        ]),
        r.chance(0.4) && `Does ${hut.warden.name} have enough ${r.pick(["saws", "gloves", "brushes", "ladders"])}?`,
        who.name.split(" ")[0]!,
      ),
    },
  ];
};

export const committee: Kind = (r, date) => {
  const who = r.pick(COMMITTEE);
  const hut = r.pick(HUTS);
  const by = addDays(date, r.int(4, 14));
  const matter = r.pick([
    "winter room heating",
    "the new price list",
    "a second warden in August",
    "solar panels on the south roof",
    "the old stove",
    "closing for the lambing weeks",
  ]);
  const subject = r.pick([
    `Vote needed: ${matter}`,
    `Minutes, item ${r.int(2, 9)}: ${matter}`,
    `${hut.name}: ${matter}`,
  ]);
  const text = paragraphs(
    "Dear all,",
    subject.startsWith("Vote")
      ? `two quotes are in for ${matter} at ${hut.name}: ${money(r.int(20, 90) * 100)} and ${money(r.int(91, 160) * 100)}. The cheaper one cannot start before ${longDate(addDays(by, 40))}. Please vote by ${dayName(by)} ${longDate(by)}; silence counts as yes.`
      : `the draft on ${matter} is below. I have left out the part about the ladder, on which nobody agreed.`,
    who.name,
  );
  const voter = r.pick(COMMITTEE.filter((c) => c !== who));
  return [
    {
      folder: "Committee",
      from: who,
      to: "press",
      subject,
      text,
      html: asHtml(text),
      keywords: subject.startsWith("Vote") ? ["Decision"] : [],
    },
    ...(r.chance(0.7)
      ? [
          {
            folder: "Committee",
            from: voter,
            to: "press" as const,
            subject: re(subject),
            text: paragraphs(
              r.pick([
                "Yes from me.",
                "Yes, if it is done before the snow.",
                "No. We said the same about the boiler.",
                "I abstain; my cousin is one of the two.",
              ]),
              voter.name.split(" ")[0]!,
            ),
            after: r.int(1, 60),
            quotes: true,
          },
        ]
      : []),
    ...(r.chance(0.4)
      ? [
          {
            folder: "Committee",
            from: who,
            to: "press" as const,
            subject: re(subject),
            text: paragraphs("Noted, thank you. That makes four to one.", who.name.split(" ")[0]!),
            after: r.int(1, 30),
            quotes: true,
          },
        ]
      : []),
  ];
};

const INSPECTORS: readonly Person[] = [
  { name: "Fire inspectorate", address: "north@fireinspectorate.example" },
  { name: "Water laboratory", address: "results@waterlab.example" },
  { name: "District food office", address: "office@districtfood.example" },
];

export const inspection: Kind = (r, date) => {
  const from = r.pick(INSPECTORS);
  const hut = r.pick(HUTS);
  const by = addDays(date, r.int(6, 35));
  const what =
    from === INSPECTORS[0]
      ? "extinguisher certificates"
      : from === INSPECTORS[1]
        ? "the water sample"
        : "the kitchen record";
  return [
    {
      folder: "Inspections",
      from,
      to: "wardens",
      subject: r.pick([
        `Reply due: ${what}, ${hut.name}`,
        `Visit to ${hut.name} on ${longDate(by)}`,
        `${hut.name}: ${what}`,
      ]),
      text: paragraphs(
        "To the operator,",
        `${what === "the water sample" ? `the sample taken at ${hut.name} on ${longDate(addDays(date, -9))} is within limits, but for hardness.` : `${what} for ${hut.name} ${r.pick(["expire", "were last seen in our files two years ago and expire"])} on ${longDate(by)}.`} Please answer in writing by ${longDate(by)}, quoting ${r.int(100, 999)}/${date.getUTCFullYear()}.`,
        from.name,
      ),
      files: [
        {
          type: "application/pdf",
          content: pdf([from.name, `${what}, ${hut.name}`, `Answer by ${isoDay(by)}`]),
          name: "notice.pdf",
          disposition: "attachment",
        },
      ],
      keywords: ["Deadline"],
    },
  ];
};
