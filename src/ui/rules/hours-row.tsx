import type { HoursShape } from "@/core/api";
import { weekText } from "@/core/when";
import { ConditionField } from "./condition";
import { changeHours, removeHours } from "./edits";
import { WeekGrid } from "./week-grid";

const FIELD = "min-w-0 w-full rounded-sm border border-edge bg-sheet px-2 py-1 font-mono text-[13px]";

/** Hours: which mail waits outside of them, which of it comes in at any time, and the week as it is drawn. */
export function HoursRow({ one, place }: { readonly one: HoursShape; readonly place: number }) {
  const name = `Hours ${place + 1}`;
  const said = `Changed hours ${place + 1}`;
  return (
    <li
      data-hours={one.id}
      aria-label={name}
      className={`grid gap-x-5 gap-y-2 border-b border-rule px-3.5 py-2 text-[13px] md:grid-cols-[minmax(0,1fr)_minmax(0,1.3fr)] ${one.on ? "" : "text-ink-2"}`}
    >
      <div className="grid content-start gap-1.5">
        <span className="flex items-center gap-3">
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              aria-label={`${name} are on`}
              checked={one.on}
              onChange={({ target }) =>
                void changeHours(
                  one,
                  { on: target.checked },
                  `Switched hours ${place + 1} ${target.checked ? "on" : "off"}`,
                )
              }
            />
            <b>{weekText(one.week)}</b>
          </label>
          <button
            type="button"
            onClick={() => void removeHours(one)}
            className="ml-auto rounded-sm border border-rule bg-sheet px-2 py-0.5 text-xs"
          >
            Delete
          </button>
        </span>
        <span className="text-xs text-ink-2">Outside these hours, what waits is</span>
        <ConditionField
          label={`${name}: which mail waits`}
          value={one.narrow}
          placeholder="all mail that comes in"
          onDone={(narrow) => void changeHours(one, { narrow }, said)}
          className={FIELD}
        />
        <span className="text-xs text-ink-2">but never</span>
        <ConditionField
          label={`${name}: which comes in at any time`}
          value={one.through ?? ""}
          placeholder="no exception"
          onDone={(text) => void changeHours(one, { through: text === "" ? null : text }, said)}
          className={FIELD}
          isOptional
        />
      </div>
      <WeekGrid label={name} week={one.week} onChange={(week) => void changeHours(one, { week: [...week] }, said)} />
    </li>
  );
}
