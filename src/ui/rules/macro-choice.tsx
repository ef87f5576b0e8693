import { useMemo } from "react";
import { abilitiesOf, stepsText } from "@/core/macro";
import { whyAttended } from "@/core/rule";
import { useView } from "../state/store";

interface Props {
  readonly label: string;
  readonly value: number | null;
  readonly onChoose: (macro: number) => void;
  /** Steps of its own are wanted: a macro is made for it. */
  readonly onOwn: () => void;
  readonly className: string;
}

const OWN = "own";

/** The macros that can be done with nobody there; the others are named with why they cannot. */
export function MacroChoice({ label, value, onChoose, onOwn, className }: Props) {
  const macros = useView((v) => v.macros);
  const choices = useMemo(
    () => macros.map((macro) => ({ macro, why: whyAttended(abilitiesOf(macro, macros)) })),
    [macros],
  );
  return (
    <select
      aria-label={label}
      value={value ?? ""}
      onChange={({ target }) => (target.value === OWN ? onOwn() : onChoose(Number(target.value)))}
      className={className}
    >
      <option value="" disabled>
        which macro?
      </option>
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
