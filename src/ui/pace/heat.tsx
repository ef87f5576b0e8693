import type { PaceShape } from "@/core/api";
import { WEEKDAYS } from "./figures";

const HOURS = Array.from({ length: 24 }, (_, hour) => hour);
/** So much of the colour where most is: darker, and the figures could not be read. */
const MOST_SHARE = 55;

const figure = (n: number): string => (n === 0 ? "" : n < 0.95 ? "·" : String(Math.round(n)));

/** A usual week, hour by hour: what is decided is told by shade and figure, and by an outline where more comes than that. */
export function WeekHeat({ week }: { readonly week: PaceShape["week"] }) {
  const most = Math.max(1e-9, ...week.decided.flat());
  return (
    <>
      <div aria-hidden className="grid grid-cols-[34px_repeat(24,minmax(0,1fr))] gap-px px-1 text-[11px]">
        <span />
        {HOURS.map((hour) => (
          <span key={hour} className="text-center text-ink-2 tabular-nums">
            {hour % 3 === 0 ? hour : ""}
          </span>
        ))}
        {WEEKDAYS.map((name, day) => [
          <span key={name} className="leading-5 text-ink-2">
            {name.slice(0, 3)}
          </span>,
          ...HOURS.map((hour) => {
            const [came, decided] = [week.came[day]![hour]!, week.decided[day]![hour]!];
            return (
              <span
                key={`${name} ${hour}`}
                className={`h-5 text-center leading-5 text-ink tabular-nums ${came > decided && came >= 1 ? "outline-1 -outline-offset-1 outline-slate outline-dashed" : ""}`}
                style={{
                  background: `color-mix(in srgb, var(--spruce) ${Math.round((decided / most) * MOST_SHARE)}%, var(--sheet))`,
                }}
              >
                {figure(decided)}
              </span>
            );
          }),
        ])}
      </div>
      <p aria-hidden className="px-1 text-xs text-ink-2">
        Decided in an hour, on average; dashed where more comes.
      </p>
    </>
  );
}
