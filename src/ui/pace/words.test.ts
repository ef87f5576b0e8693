import { describe, expect, test } from "vitest";
import type { PaceShape } from "@/core/api";
import { backlogFigure, flowFigure, sendersFigure, weekFigure } from "./figures";
import { datesOf, PERIODS, spanOf } from "./period";
import { forecastText } from "./summary";
import { dayBeside, daysText, lengthText, savedText, stepText } from "./words";

const MINUTE = 60_000;
const SATURDAY = 20_785; // 2026-11-28

describe("how long, in words", () => {
  test("has the unit that says it shortest, and no more figures than are known", () => {
    const told = [
      null,
      0,
      MINUTE,
      9.94 * MINUTE,
      59 * MINUTE,
      60 * MINUTE,
      90 * MINUTE,
      47 * 60 * MINUTE,
      75 * 60 * MINUTE,
    ];
    expect(told.map(lengthText)).toEqual([
      "–",
      "under 1 min",
      "1 min",
      "9.9 min",
      "59 min",
      "1 h",
      "1.5 h",
      "47 h",
      "3.1 d",
    ]);
    expect([0.4, 59, 61, 7200].map(savedText)).toEqual(["0 s", "59 s", "1 min", "2 h"]);
    expect([null, 0, 13, 14, 99, 100].map(daysText)).toEqual([
      "never",
      "0 d",
      "13 d",
      "2 weeks",
      "14 weeks",
      "3 months",
    ]);
  });

  test("a step of time is named by what it is, and a day by its year where that is another", () => {
    expect(stepText("2026-11-28", "day")).toBe("Sat 28 Nov");
    expect(stepText("2026-11-28T09", "hour")).toBe("Sat 28 Nov, 09:00");
    expect(stepText("2026-11-23", "week")).toBe("week of 23 Nov");
    expect(dayBeside("2025-11-30", "2026-11-28")).toBe("30 Nov 2025");
    expect(dayBeside("2026-11-01", "2026-11-28")).toBe("1 Nov");
  });
});

describe("a period", () => {
  test("ends today, and going back the next ends the day before it began", () => {
    for (const period of PERIODS) {
      const [now, before] = [spanOf(period, SATURDAY, 0), spanOf(period, SATURDAY, 1)];
      expect(now.to).toBe(SATURDAY);
      expect(now.to - now.from + 1).toBe(period.days);
      expect(before.to).toBe(now.from - 1);
    }
    expect(datesOf({ from: SATURDAY, to: SATURDAY })).toBe("date=2026-11-28");
    expect(datesOf({ from: SATURDAY - 6, to: SATURDAY })).toBe("date=2026-11-22..2026-11-28");
  });
});

const zeros = () => Array.from({ length: 7 }, () => Array<number>(24).fill(0));
const pace: PaceShape = {
  from: "2026-11-27",
  to: "2026-11-28",
  by: "day",
  since: "2026-01-01",
  place: { id: 1, name: "Inbox", open: 12 },
  places: [],
  flow: [
    { at: "2026-11-27", came: 5, decided: 2, filed: 1 },
    { at: "2026-11-28", came: 3, decided: 9, filed: 0 },
  ],
  ages: [0, 1, 7, 30, 90],
  backlog: [
    { day: "2026-11-27", total: 18, layers: [2, 10, 3, 2, 1] },
    { day: "2026-11-28", total: 12, layers: [1, 5, 3, 2, 1] },
  ],
  week: { came: zeros(), decided: zeros() },
  waits: { count: 0, median: null, most: null },
  answers: { count: 0, median: null, most: null },
  passes: { count: 0, decided: 0, skipped: 0, minutes: 0, pace: null },
  forecast: null,
};

describe("a figure", () => {
  test("says what it comes to, and each point is the mail behind it", () => {
    const backlog = backlogFigure(pace);
    expect(backlog.says).toBe("12 messages on 28 Nov, 6 of them for a week and more.");
    expect(backlog.points[0]).toMatchObject({
      name: "Fri 27 Nov",
      values: ["18", "2", "10", "3", "2", "1"],
      narrow: "folder=Inbox & date<=2026-11-27",
    });
    const none = { ...pace, backlog: [{ day: "2026-11-28", total: 0, layers: [0, 0, 0, 0, 0] }], flow: [] };
    expect(backlogFigure(none).says).toBe("Nothing waited on 28 Nov.");
    expect(backlogFigure({ ...pace, backlog: [] }).says).toBe("Nothing is known of these days.");
    expect(flowFigure(none).says).toBe("Nothing came, and nothing went.");
    const flow = flowFigure(pace);
    expect(flow.says).toBe("8 came, 12 went: 4 fewer to do.");
    expect(flow.points[1]).toMatchObject({ values: ["3", "9", "0"], narrow: "date=2026-11-28" });
    expect(flowFigure({ ...pace, by: "week" }).points[1]!.narrow).toBe("date=2026-11-28..2026-12-04");
    for (const { head, points } of [backlog, flow, weekFigure(pace)])
      for (const { values } of points) expect(values).toHaveLength(head.length - 1);
  });

  test("a usual week has its best hour, or none", () => {
    expect(weekFigure(pace).says).toBe("Nothing was decided in this time.");
    const decided = zeros();
    decided[1]![9] = 2.5;
    decided[3]![9] = 0.25;
    decided[2]![14] = 2.6;
    const figure = weekFigure({ ...pace, week: { came: zeros(), decided } });
    expect(figure.says).toBe("Most is decided from 9 to 10 o'clock.");
    expect(figure.points.map(({ values }) => values[1])).toEqual(["0", "2.5", "2.6", "0.3", "0", "0", "0"]);
  });

  test("of a sender whose mail waits what waits is opened, and of another all", () => {
    const waits = { count: 4, median: 90 * MINUTE, most: 3 * 1440 * MINUTE };
    const one = {
      source: "list x",
      name: "x",
      isList: true,
      narrow: "list=x",
      came: 4,
      decided: 4,
      open: 2,
      unread: 4,
      waits,
    };
    const [first, second] = sendersFigure(
      [one, { ...one, source: "sender y", narrow: "from=y", open: 0 }],
      pace,
    ).points;
    expect(first).toMatchObject({ narrow: "folder=Inbox & list=x", values: ["4", "4", "2", "4", "1.5 h", "3 d"] });
    expect(second!.narrow).toBe("from=y");
    expect(sendersFigure([], pace).says).toBe("Nothing came in this time.");
  });
});

describe("a forecast in words", () => {
  const told = (
    empty: { soonest: number | null; likely: number | null; latest: number | null },
    gain = 1,
    open = 12,
    needed = { likely: 4.2, atMost: 6 },
  ) =>
    forecastText({
      ...pace,
      place: { ...pace.place, open },
      forecast: { days: 28, gain, empty, until: "2026-12-05", needed },
    });
  const needed = "To be empty by 5 Dec: about 5 a day, 6 to be on the safe side.";

  test("is no surer than the days it is told from", () => {
    expect(forecastText(pace)).toBe("Of fewer than seven whole days nothing can be told ahead.");
    expect(told({ soonest: 9, likely: 12, latest: null })).toBe(
      `Empty in 12 d at this pace, by the last 28 days; four times of five between 9 d and never. ${needed}`,
    );
    expect(told({ soonest: 40, likely: null, latest: null }, -0.5)).toBe(
      `At this pace it is never empty (by the last 28 days: 0.5 more a day than go). With luck in 6 weeks. ${needed}`,
    );
    const now = { soonest: 0, likely: 0, latest: 0 };
    expect(told(now, 1, 0)).toBe(`Nothing waits. ${needed}`);
    expect(told(now, 1, 0, { likely: 0, atMost: 0 })).toBe("Nothing waits.");
  });
});
