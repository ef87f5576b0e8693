import type { FitShape, TaskShape } from "@/core/api";
import { dateText, clockText, plural } from "../parts/words";
import { minutesText } from "../tasks/words";

interface Props {
  readonly fit: FitShape;
  readonly tasks: ReadonlyMap<number, TaskShape>;
  readonly zone: string;
  readonly now: number;
  readonly onApply: () => void;
  readonly onClose: () => void;
}

/** Where all open tasks would go, what of them would be late, and why nothing else could help that. */
export function FitPanel({ fit, tasks, zone, now, onApply, onClose }: Props) {
  const name = (id: number) => tasks.get(id)?.title ?? "a task";
  const span = ({ start, end }: { readonly start: string; readonly end: string }) =>
    `${dateText(start, zone, new Date(now))}–${clockText(end, zone)}`;
  return (
    <section aria-label="Proposal" className="text-[13px]">
      <header className="flex flex-wrap items-center gap-2 border-b border-rule bg-well px-3.5 py-2">
        <h2 className="min-w-0 flex-1 font-bold">
          {fit.moves.length === 0
            ? "Every task has its time already."
            : `Time for ${plural(fit.moves.length, "task")}, as proposed`}
        </h2>
        {fit.moves.length > 0 && (
          <button type="button" autoFocus onClick={onApply} className="rounded-sm bg-ink px-2.5 py-1 text-paper">
            Do it
          </button>
        )}
        <button type="button" onClick={onClose} className="rounded-sm border border-edge bg-sheet px-2.5 py-1">
          Leave it
        </button>
      </header>
      {fit.proofs.length > 0 && (
        <ul aria-label="What cannot be in time" className="border-b border-rule bg-brick-soft px-3.5 py-2">
          {fit.proofs.map(({ task, by, tasks: all, needs, room }) => (
            <li key={task}>
              <b>{name(task)}</b> cannot be in time:{" "}
              {all.length === 1
                ? `it takes ${minutesText(needs)}, and by ${dateText(by, zone, new Date(now))}`
                : `${plural(all.length, "task")} due by ${dateText(by, zone, new Date(now))} take ${minutesText(needs)} together, and`}{" "}
              {room === 0 ? "nothing" : `only ${minutesText(room)}`} is free{all.length > 1 && " until then"}.
            </li>
          ))}
        </ul>
      )}
      {fit.left.length > 0 && (
        <p className="border-b border-rule bg-amber-soft px-3.5 py-2">
          No room in the next six weeks: {fit.left.map(name).join(", ")}.
        </p>
      )}
      <ul>
        {fit.moves.map(({ task, before, after }) => (
          <li key={task} className="border-b border-rule-soft px-3.5 py-1.5">
            <span className="block truncate font-semibold">{name(task)}</span>
            <span className="num block text-xs text-ink-2">
              {before.length > 0 && <s>{before.map(span).join(", ")}</s>} {before.length > 0 && "→ "}
              {after.length === 0 ? "no time any more" : after.map(span).join(", ")}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
