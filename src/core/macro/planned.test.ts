import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { context, planOne } from "../../../tests/fixtures/macro";
import { timesInText } from "./found-time";
import { abilitiesOf, stepsSchema, type Step } from ".";

const SENT = Date.parse("2026-11-20T08:00:00Z");
/** "2026-12-05 14:30 90": the day, the time and the minutes, as far as they are said. */
const said = (text: string) =>
  timesInText(text, SENT).map(({ day, from, minutes }) => [day, from, minutes].filter((one) => one !== null).join(" "));

describe("times in text", () => {
  test.each([
    ["We meet on 5 December at 14:30.", ["2026-12-05 14:30"]],
    ["We meet at 14:30 on 5 December.", ["2026-12-05 14:30"]],
    ["5 December 2026, 2pm", ["2026-12-05 14:00"]],
    ["5 December, 12 am", ["2026-12-05 00:00"]],
    ["on 2026-12-05 from 10 to 12", ["2026-12-05 10:00 120"]],
    ["on 2026-12-05, 10:00–11:15 in the hut", ["2026-12-05 10:00 75"]],
    ["5 December, 2 to 3.30 pm", ["2026-12-05 14:00 90"]],
    ["5 December at 14.30", ["2026-12-05 14:30"]],
    ["5 December, 14.30", ["2026-12-05"]],
    ["5 December, 2 to 3:30 pm", ["2026-12-05 14:00 90"]],
    ["5 December, 9:45 till 10 am", ["2026-12-05 09:45 15"]],
    ["5 December at 14", ["2026-12-05 14:00"]],
    // The hour behind a month is no day of it; where no day stands before it, a day it is.
    ["5 December 9:00", ["2026-12-05 09:00"]],
    ["on the 3rd of January 11:15 to 12:00", ["2027-01-03 11:15 45"]],
    ["We met on 5 October 9:00", []],
    ["bed 31 November 25", ["2026-11-25"]],
    ["December 5 9:00", ["2026-12-05 09:00"]],
    // A text that speaks of days without end is looked at as far as that tells something.
    [`${"5 December, ".repeat(300)} 9 December`, ["2026-12-05"]],
    ["5 December 14h30", ["2026-12-05 14:30"]],
    // Which is money, a count, another date or no time of day.
    ["5 December, 14 people, CHF 12:50 each, 10 to 12 beds", ["2026-12-05"]],
    ["5 December for 12:50 francs, at 25, at 9:75", ["2026-12-05"]],
    ["arrival 2026-12-05, departure 2026-12-07", ["2026-12-05", "2026-12-07"]],
    ["5 December at 10, or 9 December at 14:00", ["2026-12-05 10:00", "2026-12-09 14:00"]],
    ["5 December at 10:00 or at 11:00", ["2026-12-05 10:00", "2026-12-05 11:00"]],
    // The same day said twice is one; a time belongs to the nearest day, and to none in another paragraph.
    ["Meeting 5 December\n\nWe meet on 5 December at 10:00.", ["2026-12-05 10:00"]],
    ["5 December is fine.\n\nThe hut opens at 8:00.", ["2026-12-05"]],
    [`5 December is fine${" and so on".repeat(10)} at 8:00`, ["2026-12-05"]],
    ["We met on 5 October at 10:00.", []],
    ["at 10:00", []],
    ["", []],
  ])("%s", (text, times) => expect(said(text)).toEqual(times));

  test("whatever is written, nothing fails, and what is found is a time of the day", () => {
    const piece = fc.constantFrom(
      "12",
      " ",
      ".",
      ":",
      "december",
      "to",
      "at ",
      "CHF",
      "2026",
      "-",
      "pm",
      "h",
      "\n",
      "5",
    );
    fc.assert(
      fc.property(
        fc.array(piece, { maxLength: 300 }).map((pieces) => pieces.join("")),
        (text) => {
          for (const { from, minutes } of timesInText(text, SENT)) {
            if (from !== null) expect(from).toMatch(/^([01]\d|2[0-3]):[0-5]\d$/);
            if (minutes !== null) expect(minutes).toBeGreaterThan(0);
          }
        },
      ),
    );
  });
});

const made = (step: Step, ...more: Parameters<typeof planOne>[1][]) => planOne([step], ...more).things;
const AT = { kind: "event", source: 1 };
const event = (at: string, minutes: number | null, title = "Beds for 14") => ({
  ...AT,
  event: { title, note: "Ines Okafor: Re: Beds for 14", at, minutes },
});

describe("steps that plan", () => {
  test("a task has every part that is said", () => {
    const step: Step = { do: "make task", title: "Ring", due: "+1d", pressing: true, waiting: true, repeat: "2 week" };
    expect(made(step)).toMatchObject([
      { task: { title: "Ring", pressing: true, waiting: true, repeat: "2 week", due: "2026-11-25T08:00:00.000Z" } },
    ]);
    const isRead = (one: object) => stepsSchema.safeParse([one]).success;
    expect(isRead(step)).toBe(true);
    expect(isRead({ do: "make task", repeat: "2 week" })).toBe(false);
    expect(isRead({ do: "make task", due: "+1d", repeat: "2 weeks" })).toBe(false);
    expect(isRead({ do: "block time", at: "+1d", minutes: 4 })).toBe(false);
    expect(isRead({ do: "block time", minutes: 30 })).toBe(false);
  });

  test("time is blocked when it is said, under the subject or what it is called", () => {
    expect(made({ do: "block time", at: "tomorrow 9", minutes: 45 })).toEqual([event("2026-11-25T08:00:00.000Z", 45)]);
    expect(made({ do: "block time", at: "tomorrow 9", minutes: 45, title: "Calls" })).toEqual([
      event("2026-11-25T08:00:00.000Z", 45, "Calls"),
    ]);
    expect(() => made({ do: "block time", at: "some day", minutes: 45 })).toThrow("bad-time 1");
    const back = { state: { back: "2026-11-20T08:00:00.000Z" } };
    // Something is decided about it: it is not back any more.
    const planned = planOne([{ do: "block time", at: "tomorrow 9", minutes: 45 }], back);
    expect([...planned.change.messages.values()].flat()).toMatchObject([{ kind: "back", after: null }]);
  });

  test("an event is when the message says", () => {
    const inText = (body: string, step: Step = { do: "make event" }) => made(step, { facts: { body } });
    expect(inText("Come on 11 December.")).toEqual([event("2026-12-11", null)]);
    // In winter the clocks of the zone are an hour ahead.
    expect(inText("Come on 11 December at 14:30.")).toEqual([event("2026-12-11T13:30:00.000Z", 60)]);
    expect(inText("Come on 11 December, 14:30 to 16:00.")).toEqual([event("2026-12-11T13:30:00.000Z", 90)]);
    expect(inText("11 December, 14:30 to 16:00.", { do: "make event", minutes: 20 })).toEqual([
      event("2026-12-11T13:30:00.000Z", 20),
    ]);
    // Where the step says when, the message is not asked.
    expect(inText("Come on 11 December.", { do: "make event", at: "tomorrow 9" })).toEqual([
      event("2026-11-25T08:00:00.000Z", 60),
    ]);
  });

  test("of none and of several times it asks, and says which there are", () => {
    const asks = (body: string, answers = {}) => planOne([{ do: "make event" }], { facts: { body }, answers });
    expect(asks("Come soon.").asks).toMatchObject([
      { id: "1.at@1", kind: "date", message: 1, prompt: "When is it? It says no day." },
    ]);
    const several = "Come on 11 December at 10:00, or on 12 December.";
    expect(asks(several).asks).toMatchObject([{ prompt: "When is it? It says 2026-12-11 10:00, 2026-12-12." }]);
    expect(asks(several, { "1.at@1": "12 dec 8" }).things).toEqual([event("2026-12-12T07:00:00.000Z", 60)]);
    expect(asks(several, { "1.at@1": "one day" }).skipped).toMatchObject([{ reason: "bad-time" }]);
    // Nobody may be there to answer.
    const can = (step: Step) => abilitiesOf({ steps: [step] }, undefined).asks;
    expect([can({ do: "make event" }), can({ do: "make event", at: "+1d" })]).toEqual([true, false]);
  });

  test("a day that is over by now is asked about, and one that is not is meant beside it", () => {
    const asks = (body: string) =>
      planOne([{ do: "make event" }], { facts: { body, dateMs: Date.parse("2026-10-01T08:00:00Z") } });
    // The clock of the tests stands at 24 November.
    expect(asks("Come on 5 October.").asks).toMatchObject([
      { prompt: "When is it? It says 2026-10-05, which is over." },
    ]);
    expect(asks("We met on 5 October, and meet again on 24 November.").things).toEqual([event("2026-11-24", null)]);
  });

  test("where only the server has the words, it is left to it", () => {
    const planned = planOne([{ do: "make event" }, { do: "archive" }], { facts: { body: null } });
    expect([planned.unknown, planned.things, planned.change.messages.size]).toEqual([[1], [], 0]);
  });

  test("all their questions are asked together", () => {
    const planned = planOne([{ do: "block time", title: { ask: "text" }, at: { ask: "date" }, minutes: 30 }]);
    expect(planned.asks.map(({ id }) => id)).toEqual(["1.title", "1.at"]);
    expect(context.zone).toBe("Europe/Zurich");
  });
});
