import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { PLAIN_TASK } from "../../change";
import { readIcs } from "./read";
import { repeatOfRule, ruleOfRepeat } from "./repeat";
import { writeIcs } from "./write";

const FRIDAY = { month: 11, day: 27 };

describe("as a rule, and back", () => {
  test.each([
    ["1 day", FRIDAY, "FREQ=DAILY"],
    ["3 day", FRIDAY, "FREQ=DAILY;INTERVAL=3"],
    ["1 workday", FRIDAY, "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR"],
    ["2 week", FRIDAY, "FREQ=WEEKLY;INTERVAL=2"],
    ["1 month", FRIDAY, "FREQ=MONTHLY"],
    ["1 month", { month: 1, day: 28 }, "FREQ=MONTHLY"],
    ["1 month", { month: 1, day: 29 }, "FREQ=MONTHLY;BYMONTHDAY=28,29;BYSETPOS=-1"],
    ["1 month on 31", { month: 2, day: 28 }, "FREQ=MONTHLY;BYMONTHDAY=28,29,30,31;BYSETPOS=-1"],
    ["1 year", { month: 1, day: 31 }, "FREQ=YEARLY"],
    ["1 year", { month: 1, day: 29 }, "FREQ=YEARLY"],
    ["4 year on 29", { month: 2, day: 28 }, "FREQ=YEARLY;INTERVAL=4;BYMONTH=2;BYMONTHDAY=28,29;BYSETPOS=-1"],
  ] as const)("%s, due on %o, is %s", (repeat, due, rule) => {
    expect(ruleOfRepeat(repeat, due)).toBe(rule);
    expect(repeatOfRule(rule, due)).toBe(repeat);
  });

  test.each([
    ["freq=weekly;wkst=su;interval=1;byday=fr,th,we,tu,mo", "1 workday"],
    ["INTERVAL=2;FREQ=MONTHLY", "2 month"],
    ["BYSETPOS=-1;BYMONTHDAY=31,30,29,28;FREQ=MONTHLY", "1 month on 31"],
  ])("%s is %s, in whatever order it is said", (rule, repeat) => {
    expect(repeatOfRule(rule, FRIDAY)).toBe(repeat);
  });

  test.each([
    "FREQ=HOURLY",
    "FREQ=DAILY;COUNT=3",
    "FREQ=WEEKLY;BYDAY=MO",
    "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,TU,WE,TH,FR",
    "FREQ=MONTHLY;BYMONTHDAY=28,29,30,31",
    "FREQ=MONTHLY;BYMONTHDAY=31",
    "FREQ=DAILY;INTERVAL=0",
    "FREQ=DAILY;INTERVAL=x",
    "FREQ=DAILY;INTERVAL=100",
    "",
  ])("%s is no way in which a task comes again", (rule) => {
    expect(repeatOfRule(rule, FRIDAY)).toBeNull();
  });

  test("every second workday is said by no rule", () => {
    expect(ruleOfRepeat("2 workday", FRIDAY)).toBeNull();
    expect(ruleOfRepeat("now and then", FRIDAY)).toBeNull();
  });
});

const NOW = Date.UTC(2026, 10, 27, 9);
const ZONE = "Europe/Zurich";

describe("to-dos that come again", () => {
  const units = fc.constantFrom("day", "week", "month", "year");
  test("come back as they went, with the time of day that is meant", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 40_000 }),
        fc.integer({ min: 1, max: 99 }),
        units,
        fc.integer({ min: 1, max: 480 }),
        (hours, every, unit, estimate) => {
          const due = new Date(NOW + hours * 3_600_000).toISOString();
          const task = { ...PLAIN_TASK, title: "Ring", due, estimate, repeat: `${every} ${unit}` };
          const text = writeIcs({ events: [], tasks: [["one", task]], zone: ZONE }, NOW);
          const { tasks, problems } = readIcs(text, ZONE);
          expect(problems).toEqual([]);
          expect(tasks).toEqual([expect.objectContaining({ due, estimate, repeat: task.repeat })]);
          // By the clock on the wall: an hour of summer is no hour of winter.
          expect(text).toContain(`DUE;TZID=${ZONE}:`);
        },
      ),
    );
  });

  test("what takes no time that is known takes half an hour, as everywhere", () => {
    const task = { ...PLAIN_TASK, title: "Ring", due: "2026-12-01T09:00:00.000Z", repeat: "1 week" };
    const text = writeIcs({ events: [], tasks: [["one", task]], zone: ZONE }, NOW);
    expect(text).toContain("DTSTART;TZID=Europe/Zurich:20261201T093000");
    expect(text).toContain("DUE;TZID=Europe/Zurich:20261201T100000");
    expect(text).toContain("BEGIN:VTIMEZONE");
    const once = writeIcs({ events: [], tasks: [["one", { ...task, repeat: null }]], zone: ZONE }, NOW);
    expect(once).not.toMatch(/DTSTART|VTIMEZONE|RRULE/);
    expect(once).toContain("DUE:20261201T090000Z");
  });

  const todo = (...lines: string[]) =>
    ["BEGIN:VCALENDAR", "BEGIN:VTODO", "UID:a", "SUMMARY:Roof", ...lines, "END:VTODO", "END:VCALENDAR"].join("\r\n");
  test.each([
    [["DTSTART:20261201T080000Z", "DUE:20261201T160000Z"], 480],
    [["DTSTART:20261201T075900Z", "DUE:20261201T160000Z"], null],
    [["DTSTART:20261201T160000Z", "DUE:20261201T160000Z"], null],
    [["DTSTART;VALUE=DATE:20261201", "DUE;VALUE=DATE:20261201"], null],
    [["DTSTART:20261201T080000Z"], null],
    [["DTSTART:20261201T080000Z", "DURATION:PT90M"], 90],
  ])("%o takes %s minutes", (lines, minutes) => {
    expect(readIcs(todo(...lines), ZONE).tasks[0]!.estimate).toBe(minutes);
  });

  test("what a task cannot do is said with its line, and taken in for once", () => {
    const { tasks, problems } = readIcs(todo("DUE:20261201T160000Z", "RRULE:FREQ=WEEKLY;BYDAY=MO,WE"), ZONE);
    expect(tasks[0]!.repeat).toBeNull();
    expect(problems).toEqual([{ line: 6, text: "tasks do not come again in this way: taken in for once" }]);
    const dateless = readIcs(todo("RRULE:FREQ=DAILY"), ZONE);
    expect(dateless.tasks[0]!.repeat).toBeNull();
    expect(dateless.problems).toEqual([
      { line: 5, text: "what comes again begins on a day it is due: taken in for once" },
    ]);
  });
});
