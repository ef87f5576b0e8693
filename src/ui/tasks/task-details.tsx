import { readRepeat, repeatOf, type Unit } from "@/core/agenda";
import type { TaskShape } from "@/core/api";
import { readWhen } from "@/core/when";
import { dateText } from "../parts/words";
import { Field, FIELD } from "../parts/field";
import { changeTask, removeTask, type TaskFields } from "./acts";

const UNITS: readonly Unit[] = ["day", "workday", "week", "month", "year"];

interface Props {
  readonly task: TaskShape;
  readonly zone: string;
}

/** The first field of the task that is shown, for the key that leads there. */
export const FIRST_FIELD = "task-title";

/** Everything about a task, to be changed. */
export function TaskDetails({ task, zone }: Props) {
  const change = (patch: Partial<TaskFields>) => void changeTask(task, patch);
  const repeat = task.repeat === null ? null : readRepeat(task.repeat);
  const whenProblem = (text: string): string | null => {
    if (text.trim() === "") return task.repeat === null ? null : "What comes again needs a date.";
    const when = readWhen(text, new Date(), zone);
    return when.ok ? null : `${when.problem[0]!.toUpperCase()}${when.problem.slice(1)}.`;
  };
  const setDue = (text: string) => {
    const when = text === "" ? null : readWhen(text, new Date(), zone);
    if (when === null) change({ due: null });
    else if (when.ok) change({ due: when.at.toISOString() });
  };
  const minutes = (text: string) => (text === "" ? null : Number(text));
  return (
    <section
      aria-label="The task"
      className="grid grid-cols-[88px_minmax(0,1fr)] items-start gap-x-3 gap-y-1.5 border-b border-rule px-[18px] py-3 text-[13px]"
    >
      <span className="pt-1 text-ink-2">to do</span>
      <Field
        id={FIRST_FIELD}
        label="What is to be done"
        value={task.title}
        problem={(text) =>
          text.trim() === "" ? "Say what is to be done." : text.length > 300 ? "Use at most 300 characters." : null
        }
        onDone={(title) => change({ title })}
      />
      <span className="pt-1 text-ink-2">due</span>
      <Field
        label="When it is due"
        value={task.due === null ? "" : dateText(task.due, zone, new Date())}
        placeholder="tomorrow 9, fri, 5 dec, +3d"
        problem={whenProblem}
        onDone={setDue}
      />
      <span className="pt-1 text-ink-2">takes</span>
      <span className="flex items-start gap-2">
        <Field
          label="Minutes it takes"
          className="w-20"
          value={task.estimate === null ? "" : String(task.estimate)}
          placeholder="–"
          problem={(text) => (/^([1-9]\d{0,3}|10000)?$/.test(text.trim()) ? null : "From 1 to 10000.")}
          onDone={(text) => change({ estimate: minutes(text) })}
        />
        <span className="pt-1 text-ink-2">minutes</span>
      </span>
      <span className="pt-1 text-ink-2">comes again</span>
      <span className="flex flex-wrap items-center gap-2">
        <select
          aria-label="How often it comes again"
          value={repeat?.unit ?? ""}
          disabled={task.due === null}
          title={task.due === null ? "What comes again needs a date" : undefined}
          onChange={({ target }) =>
            change({ repeat: target.value === "" ? null : repeatOf(repeat?.every ?? 1, target.value as Unit) })
          }
          className={FIELD}
        >
          <option value="">once only</option>
          {UNITS.map((unit) => (
            <option key={unit} value={unit}>
              {repeat === null || repeat.every === 1 ? `every ${unit}` : `every so many ${unit}s`}
            </option>
          ))}
        </select>
        {repeat && (
          <label className="flex items-center gap-1.5">
            each
            <select
              aria-label="So many at a time"
              value={repeat.every}
              onChange={({ target }) => change({ repeat: repeatOf(Number(target.value), repeat.unit) })}
              className={FIELD}
            >
              {[...new Set([1, 2, 3, 4, 6, 8, 12, repeat.every])]
                .sort((a, b) => a - b)
                .map((every) => (
                  <option key={every} value={every}>
                    {every}
                  </option>
                ))}
            </select>
          </label>
        )}
      </span>
      <span />
      <span className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={task.pressing}
            onChange={({ target }) => change({ pressing: target.checked })}
          />
          it presses
        </label>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={task.waiting}
            onChange={({ target }) => change({ waiting: target.checked })}
          />
          waiting for somebody
        </label>
        <button
          type="button"
          onClick={() => void removeTask(task)}
          className="rounded-sm border border-rule bg-sheet px-2 py-0.5 text-xs"
        >
          Delete
        </button>
      </span>
    </section>
  );
}
