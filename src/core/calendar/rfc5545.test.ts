import { describe, expect, test } from "vitest";
import { occurrences, type Range } from ".";
import { PLAIN_EVENT, type CalendarEvent } from "../change";

/** The examples of RFC 5545, 3.8.5.3, each as it stands there: DTSTART, RRULE and the days it lists. */

const ZONE = "America/New_York";

const eventOf = (start: string, rule: string, more: Partial<CalendarEvent> = {}): CalendarEvent => ({
  ...PLAIN_EVENT,
  calendar: 1,
  uid: "x",
  title: "",
  zone: ZONE,
  length: 0,
  start,
  rule,
  ...more,
});

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
const pad = (number: number) => String(number).padStart(2, "0");

/** "1997 Sep 2-5,9 Oct 1" as days. */
function days(text: string): string[] {
  let [year, month] = ["", ""];
  return text.split(/\s+/).flatMap((word) => {
    if (/^\d{4}$/.test(word)) year = word;
    else if (MONTHS.includes(word)) month = pad(MONTHS.indexOf(word) + 1);
    else
      return word.split(",").flatMap((part) => {
        const [from = 0, to = from] = part.split("-").map(Number);
        return Array.from({ length: to - from + 1 }, (_, i) => `${year}-${month}-${pad(from + i)}`);
      });
    return [];
  });
}

/** Clocks in New York, by the platform's own formatting. */
const clock = new Intl.DateTimeFormat("sv-SE", { timeZone: ZONE, dateStyle: "short", timeStyle: "short" });
const shown = (event: CalendarEvent, range: Range) =>
  occurrences(event, range, "Asia/Tokyo").list.map(({ start }) => clock.format(new Date(start)));

const ALWAYS = { from: Date.UTC(1990, 0, 1), to: Date.UTC(2040, 0, 1) };
/** Up to the last day that the RFC lists, where it says "...". */
const upTo = (last: string): Range => ({ from: ALWAYS.from, to: Date.parse(`${last}T23:59:00-04:00`) });

const NINE = "1997-09-02T09:00";
/** A rule, its first time, and the days on which it is at nine. Those that end in "…" go on. */
const AT_NINE: readonly (readonly [rule: string, start: string, listed: string])[] = [
  ["FREQ=DAILY;COUNT=10", NINE, "1997 Sep 2-11"],
  ["FREQ=DAILY;UNTIL=19971224T000000Z", NINE, "1997 Sep 2-30 Oct 1-31 Nov 1-30 Dec 1-23"],
  ["FREQ=DAILY;INTERVAL=2", NINE, "1997 Sep 2,4,6,8,10,12,14,16,18,20,22,24,26,28,30 Oct 2,4,6 …"],
  ["FREQ=DAILY;INTERVAL=10;COUNT=5", NINE, "1997 Sep 2,12,22 Oct 2,12"],
  [
    "FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA",
    "1998-01-01T09:00",
    "1998 Jan 1-31 1999 Jan 1-31 2000 Jan 1-31",
  ],
  ["FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1", "1998-01-01T09:00", "1998 Jan 1-31 1999 Jan 1-31 2000 Jan 1-31"],
  ["FREQ=WEEKLY;COUNT=10", NINE, "1997 Sep 2,9,16,23,30 Oct 7,14,21,28 Nov 4"],
  ["FREQ=WEEKLY;UNTIL=19971224T000000Z", NINE, "1997 Sep 2,9,16,23,30 Oct 7,14,21,28 Nov 4,11,18,25 Dec 2,9,16,23"],
  ["FREQ=WEEKLY;INTERVAL=2;WKST=SU", NINE, "1997 Sep 2,16,30 Oct 14,28 Nov 11,25 Dec 9,23 1998 Jan 6,20 Feb 3 …"],
  ["FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH", NINE, "1997 Sep 2,4,9,11,16,18,23,25,30 Oct 2"],
  ["FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH", NINE, "1997 Sep 2,4,9,11,16,18,23,25,30 Oct 2"],
  [
    "FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR",
    "1997-09-01T09:00",
    "1997 Sep 1,3,5,15,17,19,29 Oct 1,3,13,15,17,27,29,31 Nov 10,12,14,24,26,28 Dec 8,10,12,22",
  ],
  ["FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", NINE, "1997 Sep 2,4,16,18,30 Oct 2,14,16"],
  [
    "FREQ=MONTHLY;COUNT=10;BYDAY=1FR",
    "1997-09-05T09:00",
    "1997 Sep 5 Oct 3 Nov 7 Dec 5 1998 Jan 2 Feb 6 Mar 6 Apr 3 May 1 Jun 5",
  ],
  ["FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR", "1997-09-05T09:00", "1997 Sep 5 Oct 3 Nov 7 Dec 5"],
  [
    "FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU",
    "1997-09-07T09:00",
    "1997 Sep 7,28 Nov 2,30 1998 Jan 4,25 Mar 1,29 May 3,31",
  ],
  ["FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", "1997-09-22T09:00", "1997 Sep 22 Oct 20 Nov 17 Dec 22 1998 Jan 19 Feb 16"],
  ["FREQ=MONTHLY;BYMONTHDAY=-3", "1997-09-28T09:00", "1997 Sep 28 Oct 29 Nov 28 Dec 29 1998 Jan 29 Feb 26 …"],
  ["FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15", NINE, "1997 Sep 2,15 Oct 2,15 Nov 2,15 Dec 2,15 1998 Jan 2,15"],
  [
    "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1",
    "1997-09-30T09:00",
    "1997 Sep 30 Oct 1,31 Nov 1,30 Dec 1,31 1998 Jan 1,31 Feb 1",
  ],
  [
    "FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15",
    "1997-09-10T09:00",
    "1997 Sep 10-15 1999 Mar 10-13",
  ],
  [
    "FREQ=MONTHLY;INTERVAL=2;BYDAY=TU",
    NINE,
    "1997 Sep 2,9,16,23,30 Nov 4,11,18,25 1998 Jan 6,13,20,27 Mar 3,10,17,24,31 …",
  ],
  [
    "FREQ=YEARLY;COUNT=10;BYMONTH=6,7",
    "1997-06-10T09:00",
    "1997 Jun 10 Jul 10 1998 Jun 10 Jul 10 1999 Jun 10 Jul 10 2000 Jun 10 Jul 10 2001 Jun 10 Jul 10",
  ],
  [
    "FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3",
    "1997-03-10T09:00",
    "1997 Mar 10 1999 Jan 10 Feb 10 Mar 10 2001 Jan 10 Feb 10 Mar 10 2003 Jan 10 Feb 10 Mar 10",
  ],
  [
    "FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200",
    "1997-01-01T09:00",
    "1997 Jan 1 Apr 10 Jul 19 2000 Jan 1 Apr 9 Jul 18 2003 Jan 1 Apr 10 Jul 19 2006 Jan 1",
  ],
  ["FREQ=YEARLY;BYDAY=20MO", "1997-05-19T09:00", "1997 May 19 1998 May 18 1999 May 17 …"],
  ["FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", "1997-05-12T09:00", "1997 May 12 1998 May 11 1999 May 17 …"],
  ["FREQ=YEARLY;BYMONTH=3;BYDAY=TH", "1997-03-13T09:00", "1997 Mar 13,20,27 1998 Mar 5,12,19,26 1999 Mar 4,11,18,25 …"],
  [
    "FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8",
    "1997-06-05T09:00",
    "1997 Jun 5,12,19,26 Jul 3,10,17,24,31 Aug 7,14,21,28 1998 Jun 4,11,18,25 Jul 2,9,16,23,30 Aug 6,13,20,27 1999 Jun 3,10,17,24 Jul 1,8,15,22,29 Aug 5,12,19,26 …",
  ],
  [
    "FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13",
    "1997-09-13T09:00",
    "1997 Sep 13 Oct 11 Nov 8 Dec 13 1998 Jan 10 Feb 7 Mar 7 Apr 11 May 9 Jun 13 …",
  ],
  [
    "FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8",
    "1996-11-05T09:00",
    "1996 Nov 5 2000 Nov 7 2004 Nov 2 …",
  ],
  ["FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "1997-09-04T09:00", "1997 Sep 4 Oct 7 Nov 6"],
  [
    "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2",
    "1997-09-29T09:00",
    "1997 Sep 29 Oct 30 Nov 27 Dec 30 1998 Jan 29 Feb 26 Mar 30 …",
  ],
  ["FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", "1997-08-05T09:00", "1997 Aug 5,10,19,24"],
  ["FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", "1997-08-05T09:00", "1997 Aug 5,17,19,31"],
  ["FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5", "2007-01-15T09:00", "2007 Jan 15,30 Feb 15 Mar 15,30"],
];

describe("the examples of RFC 5545", () => {
  test.each(AT_NINE)("%s from %s", (rule, start, listed) => {
    const expected = days(listed.replace(" …", ""));
    const range = listed.endsWith("…") ? upTo(expected.at(-1)!) : ALWAYS;
    expect(shown(eventOf(start, rule), range)).toEqual(expected.map((day) => `${day} 09:00`));
  });

  test("Friday the 13th, the first day excepted", () => {
    const event = eventOf(NINE, "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", { except: [NINE] });
    expect(shown(event, upTo("2000-10-13"))).toEqual(
      days("1998 Feb 13 Mar 13 Nov 13 1999 Aug 13 2000 Oct 13").map((day) => `${day} 09:00`),
    );
  });

  test.each([
    ["FREQ=HOURLY;INTERVAL=3;UNTIL=19970902T170000", ["09:00", "12:00", "15:00"]],
    ["FREQ=MINUTELY;INTERVAL=15;COUNT=6", ["09:00", "09:15", "09:30", "09:45", "10:00", "10:15"]],
    ["FREQ=MINUTELY;INTERVAL=90;COUNT=4", ["09:00", "10:30", "12:00", "13:30"]],
  ])("%s within a day", (rule, times) => {
    expect(shown(eventOf(NINE, rule), ALWAYS)).toEqual(times.map((time) => `1997-09-02 ${time}`));
  });

  test.each([
    "FREQ=DAILY;BYHOUR=9,10,11,12,13,14,15,16;BYMINUTE=0,20,40",
    "FREQ=MINUTELY;INTERVAL=20;BYHOUR=9,10,11,12,13,14,15,16",
  ])("%s: every twenty minutes from nine to 16:40 each day", (rule) => {
    const expected = days("1997 Sep 2,3").flatMap((day) =>
      Array.from({ length: 24 }, (_, i) => `${day} ${pad(9 + Math.floor(i / 3))}:${pad((i % 3) * 20)}`),
    );
    expect(shown(eventOf(NINE, rule), upTo("1997-09-03"))).toEqual(expected);
  });

  test("its list of dates and periods besides a rule", () => {
    const event = eventOf(NINE, "FREQ=DAILY;COUNT=2", { also: ["1997-09-05T18:00"], except: ["1997-09-03T09:00"] });
    expect(shown(event, ALWAYS)).toEqual(["1997-09-02 09:00", "1997-09-05 18:00"]);
  });
});
