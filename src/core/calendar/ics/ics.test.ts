import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { readIcs, readIcsInSteps, writeIcs, writeIcsInSteps } from ".";
import { occurrences } from "..";
import { PLAIN_EVENT, PLAIN_TASK, type CalendarEvent } from "../../change";

const HOME = "Europe/Zurich";
const NOW = Date.UTC(2026, 10, 27);

const ics = (...lines: string[]) => ["BEGIN:VCALENDAR", "VERSION:2.0", ...lines, "END:VCALENDAR", ""].join("\r\n");
const event = (...lines: string[]) => ics("BEGIN:VEVENT", "UID:a@hut.example", ...lines, "END:VEVENT");
const read = (source: string) => readIcs(source, HOME);
const one = (source: string) => read(source).events[0]!.event;
const full = (parts: Partial<CalendarEvent>): CalendarEvent => ({
  ...PLAIN_EVENT,
  calendar: 1,
  uid: "a@hut.example",
  title: "Stove",
  start: "2026-11-27T10:00",
  length: 3600,
  ...parts,
});

describe("a large calendar", () => {
  const titles = Array.from({ length: 1000 }, (_, i) => `Round ${i}`);
  const events = titles.map((title, i) => full({ uid: `${i}@hut.example`, title }));
  const counted = <T>(steps: Generator<undefined, T>): { readonly steps: number; readonly value: T } => {
    for (let count = 0; ; count++) {
      const step = steps.next();
      if (step.done) return { steps: count, value: step.value };
    }
  };

  test("is written and read in steps of a few entries each", () => {
    const written = counted(writeIcsInSteps({ events }, NOW));
    expect(written.steps).toBeGreaterThanOrEqual(50);
    const read = counted(readIcsInSteps(written.value, HOME));
    // Of ten lines each, and then one by one.
    expect(read.steps).toBeGreaterThanOrEqual(60);
    expect(read.value.problems).toEqual([]);
    expect(read.value.events.map(({ event: { title } }) => title)).toEqual(titles);
  });

  test("is one calendar, whole and without an empty line", () => {
    const text = writeIcs({ events, name: "Rounds" }, NOW);
    expect(text).toMatch(/^BEGIN:VCALENDAR\r\nVERSION:2\.0\r\n[^]*\r\nNAME:Rounds\r\nBEGIN:VEVENT\r\n/);
    expect(text).toMatch(/\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n$/);
    expect(text).not.toContain("\r\n\r\n");
    for (const line of ["BEGIN:VEVENT", "END:VEVENT"]) expect(text.split(`${line}\r\n`)).toHaveLength(1001);
    for (const line of ["BEGIN:VCALENDAR", "END:VCALENDAR"]) expect(text.split(`${line}\r\n`)).toHaveLength(2);
  });
});

describe("an event of another program", () => {
  test("with all that is kept of it", () => {
    const source = event(
      "SEQUENCE:3",
      "SUMMARY:Stove\\, chimney\\; and more",
      "LOCATION:Larch Sadd",
      " le",
      "DESCRIPTION:one\\ntwo",
      "DTSTART;TZID=Europe/Zurich:20261127T100000",
      "DTEND;TZID=Europe/Zurich:20261127T113000",
      "TRANSP:TRANSPARENT",
      "STATUS:TENTATIVE",
      "RRULE:FREQ=WEEKLY;UNTIL=20270101T090000Z",
      "EXDATE;TZID=Europe/Zurich:20261204T100000",
      "RDATE:20261220T090000Z",
      'ORGANIZER;CN="Office: huts":MAILTO:Office@Hut.example',
      "ATTENDEE;CN=Ines;PARTSTAT=ACCEPTED:mailto:ines@larch.example",
      "BEGIN:VALARM",
      "ACTION:DISPLAY",
      "TRIGGER:-PT15M",
      "END:VALARM",
    );
    expect(read(source)).toMatchObject({ problems: [], method: null });
    expect(one(source)).toEqual({
      ...PLAIN_EVENT,
      uid: "a@hut.example",
      sequence: 3,
      title: "Stove, chimney; and more",
      place: "Larch Saddle",
      note: "one\ntwo",
      start: "2026-11-27T10:00",
      length: 5400,
      zone: "Europe/Zurich",
      busy: false,
      state: "tentative",
      // By the clock of its start.
      rule: "FREQ=WEEKLY;UNTIL=20270101T100000",
      also: ["2026-12-20T10:00"],
      except: ["2026-12-04T10:00"],
      remind: 15,
      organizer: "office@hut.example",
      attendees: [{ address: "ines@larch.example", name: "Ines", reply: "accepted" }],
    });
  });

  test.each<[string, string[], Partial<CalendarEvent>]>([
    [
      "whole days",
      ["DTSTART;VALUE=DATE:20261127", "DTEND;VALUE=DATE:20261129"],
      { start: "2026-11-27", length: 172_800 },
    ],
    ["a day without an end", ["DTSTART;VALUE=DATE:20261127"], { length: 86_400 }],
    ["a moment", ["DTSTART:20261127T100000Z"], { length: 0, zone: "UTC" }],
    ["a duration", ["DTSTART:20261127T100000", "DURATION:P1DT2H"], { length: 93_600, zone: "" }],
    ["an end elsewhere", ["DTSTART:20261127T100000Z", "DTEND;TZID=Asia/Tokyo:20261127T200000"], { length: 3600 }],
    ["seconds", ["DTSTART:20261127T100030Z"], { start: "2026-11-27T10:00:30" }],
    ["no title", ["DTSTART:20261127T100000Z", "SUMMARY: "], { title: "(no title)" }],
    ["a zone behind a path", ["DTSTART;TZID=/some.example/Europe/Zurich:20261127T100000"], { zone: "Europe/Zurich" }],
  ])("%s", (_, lines, expected) => {
    expect(one(event(...lines))).toMatchObject(expected);
  });

  const CUSTOM = [
    "BEGIN:VTIMEZONE",
    "TZID:Office clock",
    "BEGIN:STANDARD",
    "DTSTART:19701025T030000",
    "RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU",
    "TZOFFSETFROM:+0200",
    "TZOFFSETTO:+0100",
    "END:STANDARD",
    "BEGIN:DAYLIGHT",
    "DTSTART:19700329T020000",
    "RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU",
    "TZOFFSETFROM:+0100",
    "TZOFFSETTO:+0200",
    "END:DAYLIGHT",
    "END:VTIMEZONE",
  ];
  test("in a zone of its own: the one whose clocks show the same is taken for it, and that is said", () => {
    const source = ics(...CUSTOM, "BEGIN:VEVENT", "UID:b", "DTSTART;TZID=Office clock:20261127T100000", "END:VEVENT");
    expect(one(source).zone).toBe(HOME);
    expect(read(source).problems).toEqual([{ line: 20, text: expect.stringContaining("taken for Europe/Zurich") }]);
  });

  test("in a zone that nobody knows: at one's own clock, and that is said once", () => {
    const two = ["DTSTART;TZID=Nowhere:20261127T100000", "DTEND;TZID=Nowhere:20261127T110000"];
    expect(one(event(...two))).toMatchObject({ zone: "", start: "2026-11-27T10:00", length: 3600 });
    expect(read(event(...two)).problems).toEqual([{ line: 5, text: expect.stringContaining("Nowhere") }]);
  });

  test("an instance of its own is named by the clock of its series", () => {
    const source = ics(
      ...["BEGIN:VEVENT", "UID:b", "DTSTART;TZID=Europe/Zurich:20261127T100000", "RRULE:FREQ=DAILY", "END:VEVENT"],
      ...["BEGIN:VEVENT", "UID:b", "DTSTART:20261128T120000Z", "RECURRENCE-ID:20261128T090000Z", "END:VEVENT"],
    );
    expect(read(source).events.map((entry) => entry.event.instead)).toEqual([null, "2026-11-28T10:00"]);
  });

  test("to-dos", () => {
    const source = ics(
      ...[
        "BEGIN:VTODO",
        "UID:t",
        "SUMMARY:Ring",
        "DUE;VALUE=DATE:20261127",
        "PRIORITY:1",
        "DURATION:PT45M",
        "END:VTODO",
      ],
      ...["BEGIN:VTODO", "UID:u", "SUMMARY:Pay", "STATUS:COMPLETED", "PRIORITY:5", "END:VTODO"],
    );
    expect(read(source).tasks).toEqual([
      {
        line: 3,
        uid: "t",
        title: "Ring",
        due: "2026-11-27T22:59:00.000Z",
        estimate: 45,
        done: false,
        pressing: true,
        repeat: null,
      },
      { line: 10, uid: "u", title: "Pay", due: null, estimate: null, done: true, pressing: false, repeat: null },
    ]);
  });
});

describe("what is broken comes in as far as it can", () => {
  const problemsOf = (source: string) => read(source).problems.map(({ line, text }) => `${line}: ${text}`);

  test("a line that cannot be read is left out, and the rest is there", () => {
    const source = event("DTSTART:20261127T100000Z", "SUMMARY:Stove", "nonsense", "DTEND:soon", "LOCATION:Hut");
    expect(one(source)).toMatchObject({ title: "Stove", place: "Hut", length: 0 });
    expect(problemsOf(source)).toEqual([expect.stringMatching(/^7: /), expect.stringMatching(/^8: /)]);
  });

  test("an event without an end gives way to the next", () => {
    const source = [
      "BEGIN:VCALENDAR",
      "BEGIN:VEVENT",
      "UID:1",
      "DTSTART:20261127T100000Z",
      "BEGIN:VEVENT",
      "UID:2",
      "DTSTART:20261128T100000Z",
    ].join("\n");
    expect(read(source).events.map((entry) => entry.event.uid)).toEqual(["1", "2"]);
    expect(problemsOf(source)).toHaveLength(3);
  });

  test.each([
    ["no start", event("SUMMARY:x"), /3: it says not when/],
    ["a day that is not", event("DTSTART:20260231T100000Z"), /5: DTSTART is no time/],
    ["an end before its start", event("DTSTART:20261127T100000Z", "DTEND:20261126T100000Z"), /3: it ends before/],
    ["a rule of its own", event("DTSTART:20261127T100000Z", "RRULE:FREQ=FORTNIGHTLY"), /6: it cannot be read/],
    ["each second", event("DTSTART:20261127T100000Z", "RRULE:FREQ=SECONDLY"), /6: it comes again more often/],
    [
      "a rule that ends twice",
      event("DTSTART:20261127T100000Z", "RRULE:FREQ=DAILY;COUNT=2;UNTIL=20270101"),
      /6: it comes again in no known way/,
    ],
    ["what is no calendar", "hello", /1: /],
    ["an end without a beginning", ics("END:VEVENT"), /3: the end of VEVENT/],
    ["a journal", ics("BEGIN:VJOURNAL", "END:VJOURNAL"), /3: VJOURNAL/],
  ])("%s", (_, source, expected) => {
    expect(problemsOf(source).join("\n")).toMatch(expected);
  });

  test("what holds nothing but rubbish is given up, and that is said", () => {
    const { problems, events } = read(`${"x\n".repeat(200_000)}BEGIN:VEVENT\nDTSTART:20261127T100000Z\nEND:VEVENT`);
    expect(events).toEqual([]);
    expect(problems.length).toBeLessThan(100_000);
    expect(problems.at(-1)!.text).toContain("what follows is left out");
  });

  test("rules that never match, and a million times, end in bounded time", () => {
    for (const rule of [
      "FREQ=SECONDLY;COUNT=1000000",
      "FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30",
      "FREQ=SECONDLY;INTERVAL=3600;BYMINUTE=7",
      "FREQ=HOURLY;INTERVAL=24;BYHOUR=3",
    ]) {
      const { events } = read(event("DTSTART:20261127T100000Z", `RRULE:${rule}`));
      const range = { from: Date.UTC(2056, 0, 1), to: Date.UTC(2056, 1, 1) };
      const { list, cut } = occurrences({ ...events[0]!.event, calendar: 1 }, range, HOME);
      expect(list, rule).toEqual([]);
      expect(cut, rule).toBe(true);
    }
  });

  test("whatever is written, nothing throws, and each problem has its line", () => {
    const word = fc.constantFrom(
      ..."BEGIN:VEVENT END:VEVENT BEGIN:VCALENDAR END:VCALENDAR BEGIN:VTODO END:VTODO BEGIN:VALARM END:VALARM BEGIN:VTIMEZONE END:VTIMEZONE UID:1 DTSTART:20261127T100000Z DTSTART;VALUE=DATE:20261127 DTEND:x DURATION:-P1D RRULE:FREQ=DAILY RRULE:COUNT=2 RDATE;VALUE=PERIOD:20261127T100000Z/PT1H EXDATE:20261128T100000Z RECURRENCE-ID:20261128T100000Z TRIGGER:-PT5M ATTENDEE:mailto:a@b.example ORGANIZER: DUE:1 PRIORITY:x TZID:z".split(
        " ",
      ),
    );
    const line = fc.oneof({ weight: 5, arbitrary: word }, fc.string({ maxLength: 20 }));
    fc.assert(
      fc.property(fc.array(line, { maxLength: 25 }), (lines) => {
        const { problems } = read(lines.join("\r\n"));
        for (const problem of problems) {
          expect(problem.line).toBeGreaterThanOrEqual(1);
          expect(problem.line).toBeLessThanOrEqual(Math.max(1, lines.join("\r\n").split("\n").length));
        }
      }),
      { numRuns: 500 },
    );
  });
});

describe("what is written is read the same", () => {
  const wall = (whole: boolean) =>
    fc
      .integer({ min: Date.UTC(2024, 0, 1) / 60_000, max: Date.UTC(2028, 0, 1) / 60_000 })
      .map((minute) => new Date(minute * 60_000).toISOString().slice(0, whole ? 10 : 16));
  const line = fc.string({ maxLength: 40, unit: "grapheme" }).map((text) => text.replace(/[\p{C}\r]/gu, "").trim());
  const arbitrary = fc.boolean().chain((whole) =>
    fc.record({
      title: line.map((text) => text || "x"),
      place: line,
      note: fc.array(line, { maxLength: 3 }).map((lines) => lines.join("\n").trim()),
      sequence: fc.nat(9),
      start: wall(whole),
      length: whole ? fc.integer({ min: 1, max: 9 }).map((n) => n * 86_400) : fc.nat(200_000),
      zone: whole ? fc.constant("") : fc.constantFrom("", "UTC", "Europe/Zurich", "America/New_York"),
      busy: fc.boolean(),
      state: fc.constantFrom("confirmed" as const, "tentative" as const, "cancelled" as const),
      rule: fc.constantFrom(
        null,
        "FREQ=DAILY",
        "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,WE",
        "FREQ=MONTHLY;COUNT=3;BYDAY=-1FR",
      ),
      also: fc.uniqueArray(wall(whole), { maxLength: 3 }).map((list) => list.sort()),
      except: fc.uniqueArray(wall(whole), { maxLength: 3 }).map((list) => list.sort()),
      remind: fc.option(fc.nat(500)),
      attendees: fc.constantFrom<CalendarEvent["attendees"]>(
        [],
        [{ address: "ines@larch.example", name: "Ines, of Larch", reply: "declined" }],
      ),
      organizer: fc.constantFrom<string>("", "office@hut.example"),
    }),
  );

  test("for any event", () => {
    fc.assert(
      fc.property(arbitrary, (parts) => {
        const event = full(parts);
        const text = writeIcs({ events: [event] }, NOW);
        const back = read(text);
        expect(back.problems).toEqual([]);
        expect(back.events).toHaveLength(1);
        expect({ ...back.events[0]!.event, calendar: 1 }).toEqual(event);
        expect(text.endsWith("END:VCALENDAR\r\n")).toBe(true);
        for (const one of text.split("\r\n")) expect(Buffer.byteLength(one)).toBeLessThanOrEqual(75);
      }),
      { numRuns: 200 },
    );
  });

  test("an end by the clock, over a change of it, and instances of their own", () => {
    const series = full({ zone: "Europe/Zurich", rule: "FREQ=WEEKLY;UNTIL=20270601T100000" });
    const own = full({ zone: "Europe/Zurich", start: "2026-12-05T12:00", instead: "2026-12-04T10:00" });
    const text = writeIcs({ events: [series, own] }, NOW);
    // In summer Greenwich is two hours behind.
    expect(text).toContain("UNTIL=20270601T080000Z");
    expect(read(text).events.map((entry) => ({ ...entry.event, calendar: 1 }))).toEqual([series, own]);
  });

  test("its description of a zone says what the platform's clocks show", () => {
    const text = writeIcs({ events: [full({ zone: "America/New_York" })] }, NOW).replaceAll(
      "America/New_York",
      "Other",
    );
    const clock = (zone: string, month: number) =>
      new Intl.DateTimeFormat("en", { timeZone: zone, dateStyle: "short", timeStyle: "long" }).format(
        Date.UTC(2026, month, 12),
      );
    for (let month = 0; month < 24; month++)
      expect(clock(one(text).zone, month)).toBe(clock("America/New_York", month));
  });

  test("tasks", () => {
    const task = { ...PLAIN_TASK, title: "Ring", due: "2026-11-27T09:00:00.000Z", pressing: true };
    const text = writeIcs({ events: [], tasks: [["t1", task]] }, NOW);
    expect(read(text).tasks[0]).toMatchObject({ uid: "t1", title: "Ring", due: task.due, pressing: true, done: false });
  });
});
