"use client";
import { sameDay, weeksOf, type Wall } from "@/core/when";

const DAYS = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];
const MONTHS = Array.from({ length: 12 }, (_, month) =>
  new Date(Date.UTC(2026, month, 1)).toLocaleDateString("en-GB", { month: "long", timeZone: "UTC" }),
);

/** The month of a day, which follows what is typed; a press takes a day. */
export function Month({
  chosen,
  today,
  onChoose,
}: {
  readonly chosen: Wall;
  readonly today: Wall;
  readonly onChoose: (day: Wall) => void;
}) {
  return (
    <table className="num mt-2 w-full max-w-72 border-collapse text-[12.5px]" aria-label="Month">
      <caption className="pb-1 text-left font-sans text-[12.5px] font-semibold">
        {MONTHS[chosen.month - 1]} {chosen.year}
      </caption>
      <thead>
        <tr>
          {DAYS.map((day) => (
            <th key={day} scope="col" className="py-0.5 text-[11px] font-normal text-ink-3">
              {day}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {weeksOf(chosen).map((week) => (
          <tr key={`${week[0]!.month}-${week[0]!.day}`}>
            {week.map((day) => {
              const isChosen = sameDay(day, chosen);
              const look = isChosen
                ? "bg-ink font-bold text-paper"
                : sameDay(day, today)
                  ? "border border-edge"
                  : day.month === chosen.month
                    ? ""
                    : "text-ink-3";
              return (
                <td key={day.day} className="p-px">
                  <button
                    type="button"
                    tabIndex={-1}
                    aria-current={sameDay(day, today) ? "date" : undefined}
                    aria-pressed={isChosen}
                    aria-label={`${day.day} ${MONTHS[day.month - 1]}`}
                    onClick={() => onChoose(day)}
                    className={`w-full rounded-sm py-0.5 max-md:py-2 ${look}`}
                  >
                    {day.day}
                  </button>
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
