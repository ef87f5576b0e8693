import { useId, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import {
  dayName,
  DAYS,
  minuteText,
  PART_MINUTES,
  PARTS_A_DAY,
  partsOf,
  weekOf,
  type Parts,
  type Week,
} from "@/core/when";

const HOURS = 24;
const PARTS_AN_HOUR = PARTS_A_DAY / HOURS;
/** Eight in the morning on Monday: nearer to where hours are than midnight is. */
const START = 8 * PARTS_AN_HOUR;

const textOf = (at: number): string => {
  const minute = (at % PARTS_A_DAY) * PART_MINUTES;
  return `${dayName(Math.floor(at / PARTS_A_DAY))} ${minuteText(minute)} to ${minuteText(minute + PART_MINUTES)}`;
};

/** The parts with a rectangle of them open or not: from one corner to the other, by day and time. */
function painted(parts: Parts, from: number, to: number, open: boolean): Parts {
  const days = [from, to].map((at) => Math.floor(at / PARTS_A_DAY)).sort((a, b) => a - b);
  const times = [from, to].map((at) => at % PARTS_A_DAY).sort((a, b) => a - b);
  return parts.map((was, at) => {
    const [day, time] = [Math.floor(at / PARTS_A_DAY), at % PARTS_A_DAY];
    return day >= days[0]! && day <= days[1]! && time >= times[0]! && time <= times[1]! ? open : was;
  });
}

interface Props {
  readonly label: string;
  readonly week: Week;
  readonly onChange: (week: Week) => void;
  /** What is said of a part that is open, and of one that is not. */
  readonly words?: readonly [open: string, closed: string];
}

const LET_IN = ["let in", "waits"] as const;

/**
 * A week that is drawn: by pulling over it, or with arrows, Space for one part and Shift with arrows for a stretch.
 * What is drawn is stored when the pointer or the Shift key is let go.
 */
export function WeekGrid({ label, week, onChange, words = LET_IN }: Props) {
  const id = useId();
  const parts = partsOf(week);
  const [at, setAt] = useState(START);
  const [hasFocus, setFocus] = useState(false);
  const [pull, setPull] = useState<{ readonly from: number; readonly to: number; readonly open: boolean } | null>(null);
  const grid = useRef<HTMLDivElement>(null);
  const shown = pull ? painted(parts, pull.from, pull.to, pull.open) : parts;
  const store = (next: Parts) => onChange(weekOf(next));
  const end = () => {
    if (pull) store(shown);
    setPull(null);
  };
  const partUnder = ({ clientX, clientY }: PointerEvent): number => {
    const box = grid.current!.getBoundingClientRect();
    const share = (value: number, count: number) => Math.max(0, Math.min(count - 1, Math.floor(value * count)));
    const day = share((clientY - box.top) / box.height, DAYS);
    return day * PARTS_A_DAY + share((clientX - box.left) / box.width, PARTS_A_DAY);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -PARTS_A_DAY, ArrowDown: PARTS_A_DAY }[event.key];
    if (by !== undefined) {
      event.preventDefault();
      const next = at + by;
      if (next < 0 || next >= DAYS * PARTS_A_DAY) return;
      setAt(next);
      if (event.shiftKey) setPull((now) => ({ from: now?.from ?? at, to: next, open: now?.open ?? !parts[at] }));
    } else if (event.key === " ") {
      event.preventDefault();
      store(painted(parts, at, at, !parts[at]));
    } else if (event.key === "Escape" && pull) {
      event.preventDefault();
      setPull(null);
    }
  };
  return (
    <div className="grid min-w-0 grid-cols-[32px_minmax(0,1fr)] text-[11px] text-ink-2">
      <span />
      <div aria-hidden className="num flex">
        {Array.from({ length: HOURS / 3 }, (_, n) => (
          <span key={n} className="flex-1 border-l border-rule pl-0.5">
            {n * 3}
          </span>
        ))}
      </div>
      <div aria-hidden className="grid auto-rows-fr">
        {Array.from({ length: DAYS }, (_, day) => (
          <span key={day} className="leading-5">
            {dayName(day)}
          </span>
        ))}
      </div>
      <div
        ref={grid}
        role="application"
        aria-label={`${label}: arrows move, Space opens and closes, Shift with arrows draws`}
        aria-describedby={`${id}-at`}
        tabIndex={0}
        onFocus={() => setFocus(true)}
        onBlur={() => {
          setFocus(false);
          end();
        }}
        onKeyDown={onKeyDown}
        onKeyUp={({ key }) => key === "Shift" && end()}
        onPointerDown={(event) => {
          const from = partUnder(event);
          event.currentTarget.setPointerCapture(event.pointerId);
          setAt(from);
          setPull({ from, to: from, open: !parts[from] });
        }}
        onPointerMove={(event) => {
          if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
          const to = partUnder(event);
          setPull((now) => now && { ...now, to });
        }}
        onPointerUp={end}
        onPointerCancel={() => setPull(null)}
        className="grid touch-none grid-cols-[repeat(48,minmax(0,1fr))] auto-rows-fr border-r border-b border-rule"
      >
        {shown.map((open, part) => (
          <span
            key={part}
            data-part={part}
            data-open={open}
            className={`h-5 border-t border-rule ${part % PARTS_AN_HOUR === 0 ? "border-l" : ""} ${open ? "bg-spruce" : "bg-sheet"} ${hasFocus && part === at ? "outline-2 -outline-offset-2 outline-amber" : ""}`}
          />
        ))}
      </div>
      <span />
      <span id={`${id}-at`} role="status" className="pt-0.5 text-xs">
        {hasFocus ? `${textOf(at)}: ${words[shown[at] ? 0 : 1]}` : " "}
      </span>
    </div>
  );
}
