import { useMemo } from "react";
import { abilitiesOf, stepsText } from "@/core/macro";
import { whyAttended, type RuleTime } from "@/core/rule";
import { useView } from "../state/store";

interface Props {
  readonly label: string;
  readonly value: number | null;
  readonly onChoose: (macro: number) => void;
  /** A rule on sending may do nothing by a macro. */
  readonly onNone?: () => void;
  readonly time?: RuleTime;
  /** Steps of its own are wanted: a macro is made for it. */
  readonly onOwn: () => void;
  readonly className: string;
}

const OWN = "own";
const NONE = "none";

/** The macros that can be done with nobody there; the others are named with why they cannot. */
export function MacroChoice({ label, value, onChoose, onOwn, onNone, time = "arrival", className }: Props) {
  const macros = useView((v) => v.macros);
  const choices = useMemo(
    () => macros.map((macro) => ({ macro, why: whyAttended(abilitiesOf(macro, macros), time) })),
    [macros, time],
  );
  return (
    <select
      aria-label={label}
      value={value ?? (onNone ? NONE : "")}
      onChange={({ target }) => {
        if (target.value === OWN) onOwn();
        else if (target.value === NONE) onNone?.();
        else onChoose(Number(target.value));
      }}
      className={className}
    >
      <option value="" disabled>
        which macro?
      </option>
      {onNone && <option value={NONE}>no macro</option>}
      <option value={OWN}>steps of its own…</option>
      {choices.map(({ macro, why }) => {
        return (
          <option key={macro.id} value={macro.id} disabled={why !== null} title={why ?? stepsText(macro.steps)}>
            {macro.name}
            {why === null ? "" : ` (${why.slice(0, 1).toLowerCase()}${why.slice(1, -1)})`}
          </option>
        );
      })}
    </select>
  );
}
