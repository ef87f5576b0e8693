import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { folderId, labelId, messageId, type MessageId } from "../id";
import type { Facts } from "../macro";
import { docOfText, EMPTY_DOC } from "../letter";
import { fold, readNarrow } from "../narrow";
import type { MessageState } from "../change";
import { factsWith, stateWith } from "../../../tests/fixtures/macro";
import {
  allOf,
  arrivedIn,
  exceptFrom,
  joinMonths,
  looksFor,
  ofInbox,
  lastingSubject,
  ruling,
  suggestionsFrom,
  verdictOf,
  whyAttended,
} from ".";

const [INBOX, FILED] = [folderId(1), folderId(2)];
const directory = {
  folders: [
    { id: INBOX, path: "Inbox", role: "inbox" as const },
    { id: FILED, path: "Filed", role: null },
  ],
  labels: [],
  markers: [],
  accounts: [],
};
const context = { directory, now: new Date("2026-11-27T10:00:00Z"), zone: "UTC" };
const testOf = (narrow: string) => {
  const checked = readNarrow(narrow, context);
  if (!checked.ok) throw new Error(narrow);
  return checked.test;
};
const factsOf = (from: string, more: Partial<Record<string, string>> = {}): Facts => ({
  ...factsWith({ fromAddress: from }),
  text: (field) => fold(field === "from" ? from : (more[field] ?? "")),
});
const state = stateWith({ folder: INBOX, read: false });

/** What a rule of the laws does to a message: files it, brings it back, or marks it read. */
const DEEDS = {
  file: (state: MessageState) => ({ ...state, folder: FILED }),
  back: (state: MessageState) => ({ ...state, folder: INBOX }),
  read: (state: MessageState) => ({ ...state, read: true }),
} as const;
/** Conditions with what they mean, said once more by hand. */
const CONDITIONS: Record<string, (state: MessageState, from: string) => boolean> = {
  "": () => true,
  "folder=Inbox": ({ folder }) => folder === INBOX,
  "folder=Filed": ({ folder }) => folder === FILED,
  unread: ({ read }) => !read,
  "from~ines": (_, from) => from.includes("ines"),
  "!from~ines read": ({ read }, from) => !from.includes("ines") && read,
};

describe("rules in their order", () => {
  test("are as if each message went through them alone, one after another, until one stops it", () => {
    const arbRule = fc.record({
      narrow: fc.constantFrom(...Object.keys(CONDITIONS)),
      deed: fc.constantFrom<keyof typeof DEEDS>("file", "back", "read"),
      stop: fc.boolean(),
    });
    const arbFrom = fc.constantFrom("ines@larch.example", "bo@tarn.example");
    fc.assert(
      fc.property(fc.array(arbRule, { maxLength: 6 }), fc.array(arbFrom, { maxLength: 5 }), (wanted, senders) => {
        const states = new Map<MessageId, MessageState>(senders.map((_, i) => [messageId(i + 1), state]));
        const rules = wanted.map((rule) => ({ ...rule, test: testOf(rule.narrow) }));
        const look = (id: MessageId) => ({ state: states.get(id)!, facts: factsOf(senders[id - 1]!) });
        const told: string[] = [];
        for (const { rule, on } of ruling(rules, [...states.keys()], look)) {
          told.push(`${rules.indexOf(rule)}: ${on.join()}`);
          for (const id of on) states.set(id, DEEDS[rule.deed](states.get(id)!));
        }
        const by = wanted.map(() => [] as number[]);
        const alone = senders.map((from, i) => {
          let now = state;
          for (const [n, { narrow, deed, stop }] of wanted.entries()) {
            if (!CONDITIONS[narrow]!(now, from)) continue;
            by[n]!.push(i + 1);
            now = DEEDS[deed](now);
            if (stop) break;
          }
          return now;
        });
        expect([...states.values()]).toEqual(alone);
        expect(told).toEqual(by.flatMap((on, n) => (on.length === 0 ? [] : [`${n}: ${on.join()}`])));
      }),
    );
  });

  test("one that could not be done stops nothing", () => {
    const there = { state, facts: factsOf("x@y.example") };
    const rules = [1, 2, 3].map((n) => ({ n, test: testOf(""), stop: n < 3 }));
    const walk = ruling(rules, [messageId(1)], () => there);
    const seen: number[] = [];
    for (let next = walk.next(); !next.done; next = walk.next(next.value.rule.n > 1)) seen.push(next.value.rule.n);
    expect(seen).toEqual([1, 2]);
  });

  test("with a list of senders are for those alone, whatever the case of their addresses", () => {
    const senders = ["Ines@Larch.example", "bo@larch.example", ""];
    const rules = [{ test: testOf("from~larch"), stop: false, senders: new Set(["ines@larch.example"]) }];
    const look = (id: MessageId) => ({ state, facts: factsOf(senders[id - 1]!) });
    const all = [
      ...ruling(
        rules,
        senders.map((_, i) => messageId(i + 1)),
        look,
      ),
    ];
    expect(all.map(({ on }) => on)).toEqual([[1]]);
    const none = [{ test: testOf(""), stop: false, senders: new Set<string>() }];
    expect([...ruling(none, [messageId(1)], look)]).toEqual([]);
  });

  test("leave out what is not there", () => {
    const there = { state, facts: factsOf("x@y.example") };
    const look = (id: MessageId) => (id === messageId(2) ? undefined : there);
    const all = [...ruling([{ test: testOf(""), stop: false }], [messageId(1), messageId(2)], look)];
    expect(all.map(({ on }) => on)).toEqual([[1]]);
  });
});

describe("conditions that a message suggests", () => {
  test("mean that message, each of them", () => {
    const message = {
      from: "ines@larch.example",
      list: "ridge.notes",
      via: ["desk@huts.example"],
      subject: "Re: [ridge] Beds for 12 people",
    };
    const some = suggestionsFrom(message);
    expect(some.map(({ text }) => text)).toEqual([
      "the list ridge.notes",
      "from ines@larch.example",
      "from anybody at larch.example",
      "to desk@huts.example",
      "“Beds for” in the subject",
    ]);
    const facts = factsOf(message.from, {
      list: "ridge.notes",
      via: "desk@huts.example",
      subject: "re: [ridge] beds for 12 people",
    });
    for (const { narrow } of some)
      expect([
        ...ruling([{ test: testOf(narrow), stop: false }], [messageId(1)], () => ({ state, facts })),
      ]).toHaveLength(1);
    expect(suggestionsFrom({ from: "", list: "", via: [], subject: "Hi" })).toEqual([]);
    expect(suggestionsFrom({ from: "nobody", list: "", via: [], subject: "" }).map(({ narrow }) => narrow)).toEqual([
      "from=nobody",
    ]);
  });

  test.each([
    ["Re: Invoice 2231", "Invoice"],
    ["AW: WG: [desk] Weather for Friday", "Weather for Friday"],
    ["12 beds", ""],
    ["Fwd:", ""],
    ["Bill (3)", "Bill"],
  ])("of %s stays %s", (subject, lasting) => expect(lastingSubject(subject)).toBe(lasting));

  test("of the inbox, all ways of a condition are meant there, whatever it is called", () => {
    expect(ofInbox("", "Inbox")).toBe("folder=Inbox");
    expect(ofInbox(" ", "To do")).toBe('folder="To do"');
    expect(ofInbox("a | b", "Inbox")).toBe("folder=Inbox & (a | b)");
  });

  test("an exception is made once, and means all of a condition of several ways", () => {
    expect(exceptFrom("from~larch", ["ines@larch.example"])).toBe("from~larch !from=ines@larch.example");
    expect(exceptFrom("from~larch !from=ines@larch.example", ["ines@larch.example"])).toBe(
      "from~larch !from=ines@larch.example",
    );
    expect(exceptFrom("a | b", ["x@y.example", "z@y.example"])).toBe("(a | b) !from=x@y.example !from=z@y.example");
    // One of two ways is no exception of all of it; brackets do not pile up.
    expect(exceptFrom("a | b !from=x@y.example", ["x@y.example"])).toBe("(a | b !from=x@y.example) !from=x@y.example");
    const twice = exceptFrom(exceptFrom("a | b", ["x@y.example"]), ["z@y.example"]);
    expect(twice).toBe("(a | b) !from=x@y.example !from=z@y.example");
    expect(exceptFrom("", ["x@y.example"]).trim()).toBe("!from=x@y.example");
  });
});

test("a macro that asks, lasts or waits for its writer is for somebody who is there", () => {
  const can = { asks: false, confirms: false, writes: false, sends: false } as Parameters<typeof whyAttended>[0];
  expect(whyAttended(can)).toBeNull();
  const said = (["asks", "confirms", "writes"] as const).map((one) => whyAttended({ ...can, [one]: true }));
  expect(new Set(said).size).toBe(3);
  expect(said).not.toContain(null);
  expect([whyAttended({ ...can, sends: true }), whyAttended({ ...can, sends: true }, "sending")]).toEqual([
    null,
    expect.any(String),
  ]);
});

describe("what was done by hand, beside what a rule would have done", () => {
  const arrived = arrivedIn(INBOX);

  test("begins with mail as it comes: in the inbox, unread, and nothing decided about it", () => {
    const asked = ["folder=Inbox", "unread", "flagged", "pinned", "owed", "awaited", "deferred", "returned", "marked"];
    const there = { state: arrived, facts: factsOf("x@y.example") };
    const meant = asked.filter(
      (narrow) => [...ruling([{ test: testOf(narrow), stop: false }], [messageId(1)], () => there)].length > 0,
    );
    expect(meant).toEqual(["folder=Inbox", "unread"]);
    expect(arrived).toMatchObject({ labels: [], note: null, hand: null });
  });

  const file = { kind: "folder", before: INBOX, after: FILED } as const;
  const label = { kind: "label", label: labelId(3), before: false, after: true } as const;
  const read = { kind: "read", before: false, after: true } as const;
  test.each([
    ["filed as it would", [file], { folder: FILED }, "agrees"],
    ["filed as it would, and more", [file], { folder: FILED, pin: true, read: true }, "agrees"],
    ["filed elsewhere", [file], { folder: folderId(9) }, "differs"],
    ["half of it", [file, label], { folder: FILED }, "differs"],
    ["all of it", [file, label], { folder: FILED, labels: [labelId(3)] }, "agrees"],
    ["left as it came", [file], {}, "nothing"],
    ["only read", [file], { read: true }, "nothing"],
    ["only read, which it would too", [file, read], { read: true }, "nothing"],
    ["read, which is all it would", [read], { read: true }, "agrees"],
    ["kept here, with a flag", [file], { flag: { start: null, due: null, note: null } }, "differs"],
    ["nothing that can be seen", [], {}, "nothing"],
  ] as const)("%s", (_, edits, now, verdict) => {
    expect(verdictOf(edits, arrived, { ...arrived, ...now })).toBe(verdict);
  });
});

test("months of pieces add up, in their order, with those that held nothing", () => {
  const share = (agrees: number, differs = 0, nothing = 0) => ({ agrees, differs, nothing });
  const first = [
    { month: "2026-02", ...share(1, 2, 3) },
    { month: "2025-11", ...share(4) },
  ];
  const months = joinMonths(joinMonths([], first), [{ month: "2025-11", ...share(1, 1, 1) }]);
  expect(months).toEqual([
    { month: "2025-11", ...share(5, 1, 1) },
    { month: "2025-12", ...share(0) },
    { month: "2026-01", ...share(0) },
    { month: "2026-02", ...share(1, 2, 3) },
  ]);
  expect(allOf(months)).toEqual(share(6, 3, 4));
  expect(joinMonths([], [])).toEqual([]);
});

describe("a letter before it goes", () => {
  const OUTBOX = folderId(8);
  const ben = { name: "Ben", address: "ben@larch.example" };
  const away = { name: "", address: "X@Tarn.example" };
  const letter = { sender: ben, to: [ben], cc: [], bcc: [], subject: "Beds", body: EMPTY_DOC, files: [] as string[] };
  const any = { moreThan: null, outside: false };
  const asked = (narrow: string, reach: object, more: Partial<typeof letter> & object = {}) =>
    looksFor(
      [{ ...any, test: testOf(narrow), look: "Sure?", ...reach }],
      { ...letter, ...more },
      ["desk@LARCH.example"],
      OUTBOX,
      new Date(),
    ).length === 1;

  test.each<[boolean, string, object, object]>([
    [true, "", {}, {}],
    [true, "subject~bed", {}, {}],
    [false, "subject~hut", {}, {}],
    [true, "to~ben", {}, {}],
    [true, "to~tarn", {}, { cc: [away] }],
    // As in the message that is made of it: who gets a blind copy is not in it.
    [false, "to~tarn", {}, { bcc: [away] }],
    [false, "cc~tarn", {}, { bcc: [away] }],
    [true, "cc~tarn", {}, { cc: [away] }],
    [true, "from~larch", {}, {}],
    [false, "attachment", {}, {}],
    [true, "attachment file~plan", {}, { files: ["plan.pdf"] }],
    [true, "body~winter", {}, { body: docOfText("The winter room") }],
    [true, "read mine", {}, {}],
    [false, "", { outside: true }, {}],
    [true, "", { outside: true }, { bcc: [away] }],
    [false, "", { moreThan: 1 }, {}],
    // Somebody who is written to twice is one.
    [false, "", { moreThan: 1 }, { cc: [{ ...ben, address: "BEN@larch.example" }] }],
    [true, "", { moreThan: 1 }, { cc: [away] }],
    [true, "", { moreThan: 0 }, {}],
    // What is no address yet is nobody outside.
    [false, "", { outside: true }, { to: [{ name: "", address: "nobody" }] }],
  ])("is asked about: %s for “%s”", (is, narrow, reach, more) => {
    expect(asked(narrow, reach, more)).toBe(is);
  });
});
