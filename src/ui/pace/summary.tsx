import type { RefObject } from "react";
import type { PaceShape } from "@/core/api";
import { countText } from "../parts/words";
import { daysText, lengthText, shortDay } from "./words";

/** Nobody plans further ahead; it keeps half-typed years out. */
const LAST_DAY = "2199-12-31";

function Fact({ name, value, more }: { readonly name: string; readonly value: string; readonly more: string }) {
  return (
    <div className="min-w-0">
      <dt className="text-xs text-ink-2">{name}</dt>
      <dd>
        <span className="text-[17px] leading-6 font-bold tabular-nums">{value}</span>{" "}
        <span className="text-xs text-ink-2">{more}</span>
      </dd>
    </div>
  );
}

/** When nothing would be left, in a sentence that is no surer than the days it is told from. */
export function forecastText({ forecast, place }: PaceShape): string {
  if (!forecast) return "Of fewer than seven whole days nothing can be told ahead.";
  const { empty, days, gain, until, needed } = forecast;
  const pace = `To be empty by ${shortDay(until)}: about ${countText(Math.ceil(needed.likely))} a day, ${countText(Math.ceil(needed.atMost))} to be on the safe side.`;
  if (place.open === 0) return needed.atMost > 0 ? `Nothing waits. ${pace}` : "Nothing waits.";
  const told = `by the last ${days} days`;
  if (empty.likely === null) {
    const hope = empty.soonest === null ? "" : ` With luck in ${daysText(empty.soonest)}.`;
    return `At this pace it is never empty (${told}: ${countText(Math.round(-gain * 10) / 10)} more a day than go).${hope} ${pace}`;
  }
  return `Empty in ${daysText(empty.likely)} at this pace, ${told}; four times of five between ${daysText(empty.soonest)} and ${daysText(empty.latest)}. ${pace}`;
}

interface SummaryProps {
  readonly pace: PaceShape;
  readonly tomorrow: string;
  /** Another day by which nothing is to be left. */
  readonly onUntil: (day: string | null) => void;
  readonly untilField: RefObject<HTMLInputElement | null>;
}

/** The few figures that say how it stands. */
export function Summary({ pace, tomorrow, onUntil, untilField }: SummaryProps) {
  const { place, waits, answers, passes, backlog } = pace;
  const last = backlog.at(-1);
  const old = last ? last.layers.slice(2).reduce((sum, n) => sum + n, 0) : 0;
  return (
    <>
      <dl className="grid grid-cols-2 gap-x-4 gap-y-1 border-b border-rule px-3 py-2 md:grid-cols-4">
        <Fact
          name="Waiting now"
          value={countText(place.open)}
          more={place.open === 0 ? "" : `${countText(old)} for a week and more`}
        />
        <Fact
          name="Until decided"
          value={lengthText(waits.median)}
          more={waits.count === 0 ? "nothing decided" : `half; nine of ten ${lengthText(waits.most)}`}
        />
        <Fact
          name="Until answered"
          value={lengthText(answers.median)}
          more={
            answers.count === 0
              ? "nothing answered"
              : `half of ${countText(answers.count)}; nine of ten ${lengthText(answers.most)}`
          }
        />
        <Fact
          name="In passes"
          value={passes.pace === null ? "–" : `${passes.pace.toFixed(1)} a minute`}
          more={
            passes.count === 0
              ? "no pass"
              : `${passes.count === 1 ? "1 pass" : `${countText(passes.count)} passes`}, ${countText(passes.decided)} decided, ${countText(passes.skipped)} skipped`
          }
        />
      </dl>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3 py-1.5 text-[13px]">
        <p data-testid="forecast" className="min-w-0 flex-1 max-md:basis-full">
          {forecastText(pace)}
        </p>
        {pace.forecast && (
          <label className="flex items-center gap-1.5 text-ink-2">
            Empty by
            <input
              ref={untilField}
              type="date"
              min={tomorrow}
              max={LAST_DAY}
              defaultValue={pace.forecast.until}
              onChange={({ target }) => onUntil(target.validity.valid && target.value !== "" ? target.value : null)}
              className="rounded-sm border border-edge bg-sheet px-1.5 py-0.5 text-ink max-md:py-1.5"
            />
          </label>
        )}
      </div>
    </>
  );
}
