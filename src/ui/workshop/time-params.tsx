"use client";
import { repeatText } from "@/core/agenda";
import type { Step } from "@/core/macro";
import { FIELD } from "./name-field";

/** Parameters of steps that plan. */

interface Props<K extends Step["do"]> {
  readonly step: Extract<Step, { do: K }>;
  readonly onChange: (step: Step) => void;
}

/** The step with a parameter changed, or without it. */
const having = (step: Step, param: string, value: unknown): Step => {
  const { [param]: _, ...rest } = step as Record<string, unknown>;
  return (value === undefined ? rest : { ...rest, [param]: value }) as Step;
};

interface MinutesProps {
  readonly label: string;
  readonly value: number | undefined;
  readonly least: number;
  readonly most: number;
  /** Left empty, it stays as it was. */
  readonly required?: boolean;
  readonly onChange: (minutes: number | undefined) => void;
}

function Minutes({ label, value, least, most, required = false, onChange }: MinutesProps) {
  return (
    <label className="grid grid-cols-[52px_116px_1fr] items-center gap-1.5 text-xs text-ink-2">
      {label}
      <input
        type="number"
        min={least}
        max={most}
        key={value ?? ""}
        data-field
        defaultValue={value ?? ""}
        onBlur={({ target }) => {
          if (target.value === String(value ?? "")) return;
          const minutes = Math.round(Number(target.value));
          if (minutes >= least && minutes <= most) onChange(minutes);
          else if (required) target.value = String(value);
          else onChange(undefined);
        }}
        className={FIELD}
      />
      minutes
    </label>
  );
}

const REPEATS = ["1 day", "1 workday", "1 week", "2 week", "1 month", "3 month", "1 year"];

export function TaskParams({ step, onChange }: Props<"make task">) {
  const put = (param: string, value: unknown) => onChange(having(step, param, value));
  const { repeat } = step;
  return (
    <>
      <Minutes label="estimate" value={step.estimate} least={1} most={10_000} onChange={(m) => put("estimate", m)} />
      <label className="grid grid-cols-[52px_1fr] items-center gap-1.5 text-xs text-ink-2">
        again
        <select
          data-field
          value={repeat ?? ""}
          disabled={step.due === undefined}
          title={step.due === undefined ? "What comes again begins some day: say when it is due." : undefined}
          onChange={({ target }) => put("repeat", target.value || undefined)}
          className={`${FIELD} justify-self-start`}
        >
          <option value="">once</option>
          {[...REPEATS, ...(repeat === undefined || REPEATS.includes(repeat) ? [] : [repeat])].map((one) => (
            <option key={one} value={one}>
              {repeatText(one)}
            </option>
          ))}
        </select>
      </label>
      <span className="flex gap-4 text-xs">
        {(["pressing", "waiting"] as const).map((param) => (
          <label key={param} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={step[param] === true}
              onChange={({ target }) => put(param, target.checked ? true : undefined)}
            />
            {param === "pressing" ? "presses" : "waits for somebody"}
          </label>
        ))}
      </span>
    </>
  );
}

export function BlockParams({ step, onChange }: Props<"block time" | "make event">) {
  const isBlock = step.do === "block time";
  return (
    <>
      <Minutes
        label="takes"
        value={step.minutes}
        least={5}
        most={1440}
        required={isBlock}
        onChange={(minutes) => onChange(having(step, "minutes", minutes))}
      />
      {step.do === "make event" && step.at === undefined && (
        <p className="text-xs text-ink-2">
          Without a time it is when the message says; where that is no day, or several, you are asked.
        </p>
      )}
    </>
  );
}
