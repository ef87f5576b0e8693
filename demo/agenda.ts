import { addDays, instantOf, wallIn, weekdayOf, type Wall } from "@/core/when";

/** What the office has planned, around a day: rounds, meetings, time for mail, and what is to be done. */

const HOURS = 3600;

export function agendaAround(now: Date, zone: string) {
  const today = wallIn(zone, now);
  const monday = addDays(today, -weekdayOf(today));
  const pad = (value: number) => String(value).padStart(2, "0");
  const dateOf = ({ year, month, day }: Wall) => `${year}-${pad(month)}-${pad(day)}`;
  const on = (days: number, hour: number, minute = 0) => `${dateOf(addDays(monday, days))}T${pad(hour)}:${pad(minute)}`;
  const day = (days: number) => dateOf(addDays(monday, days));
  const due = (days: number, hour: number) =>
    instantOf(zone, { ...addDays(today, days), hour, minute: 0 }).toISOString();
  const event = (
    calendar: number,
    title: string,
    start: string,
    hours: number,
    more: Record<string, unknown> = {},
  ) => ({
    calendar,
    title,
    start,
    length: hours * HOURS,
    ...more,
  });
  const weekly = (days: string) => ({ rule: `FREQ=WEEKLY;BYDAY=${days}` });
  return {
    calendars: [
      { name: "Huts", colour: "slate" },
      { name: "Committee", colour: "plum" },
    ],
    events: [
      event(0, "Mail", on(-21, 9), 0.75, { block: "folder=Inbox", rule: "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR" }),
      event(0, "Mail", on(-21, 16), 0.5, { block: "folder=Inbox", ...weekly("MO,WE,FR") }),
      event(0, "Key handover, Larch Saddle", on(1, 11), 0.5, { place: "Valley station" }),
      event(0, "Dentist", on(3, 15), 1, { remind: 30 }),
      event(0, "Helicopter slot", on(8, 7, 30), 3, { place: "Upper Corrie", remind: 60 }),
      event(1, "Inspection round", on(0, 13), 3, { place: "Tarn Hut", rule: "FREQ=WEEKLY;INTERVAL=2" }),
      event(1, "Wardens’ call", on(-14, 10), 0.75, weekly("WE")),
      event(1, "Water test, Raven Step", on(4, 10), 2, { state: "tentative", place: "Raven Step" }),
      event(1, "Stove delivery", day(2), 24, { busy: false }),
      event(1, "Whin Ridge closed", day(5), 72, { busy: false, place: "Whin Ridge" }),
      event(2, "Committee", on(-18, 14), 2, {
        rule: "FREQ=MONTHLY;BYDAY=1TH",
        note: "Budget, winter opening, the new stove.",
      }),
      event(2, "Accounts with the treasurer", on(3, 14), 1.5),
      event(2, "Volunteers’ evening", on(9, 18), 2.5, { place: "Quarry Lodge" }),
    ],
    tasks: [
      { title: "Ring the helicopter people", due: due(0, 17), estimate: 30, pressing: true },
      { title: "Answer the group of 22 at Quarry Lodge", due: due(1, 12), estimate: 45, pressing: false },
      { title: "Check the gas order against the invoice", due: due(2, 16), estimate: 60, pressing: false },
      { title: "Write the winter opening notice", due: due(4, 17), estimate: 120, pressing: false },
      { title: "Order rope for Upper Corrie", due: null, estimate: 20, pressing: false },
      { title: "Rota for the volunteers’ week", due: due(9, 12), estimate: 90, pressing: false },
    ],
  };
}
