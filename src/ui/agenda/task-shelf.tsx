import type { PointerEvent } from "react";
import type { TaskShape } from "@/core/api";
import { dateText } from "../parts/words";
import { TaskTitle } from "../tasks/task-row";
import { minutesText } from "../tasks/words";

interface Props {
  readonly tasks: readonly TaskShape[];
  readonly planned: ReadonlySet<number>;
  readonly zone: string;
  readonly now: number;
  readonly onHold: (event: PointerEvent, task: TaskShape) => void;
  readonly onGive: (task: TaskShape) => void;
}

/** Open tasks, to be pulled to where there is time for them. */
export function TaskShelf({ tasks, planned, zone, now, onHold, onGive }: Props) {
  if (tasks.length === 0) return <p className="px-3.5 py-2 text-[13px] text-ink-2">No task is open.</p>;
  return (
    <ul aria-label="Open tasks">
      {tasks.map((task) => (
        <li
          key={task.id}
          data-shelved={task.id}
          onPointerDown={(event) => onHold(event, task)}
          className="flex cursor-grab items-baseline gap-2 border-b border-rule-soft px-3.5 py-1 text-[13px] select-none"
        >
          <span className="min-w-0 flex-1">
            <span className="block truncate font-semibold">
              <TaskTitle task={task} />
            </span>
            <span
              className={`num block truncate text-xs ${task.due !== null && Date.parse(task.due) < now ? "text-brick" : "text-ink-2"}`}
            >
              {[
                task.due && dateText(task.due, zone, new Date(now)),
                task.estimate !== null && minutesText(task.estimate),
                planned.has(task.id) && "has time",
              ]
                .filter(Boolean)
                .join(" · ") || "no date"}
            </span>
          </span>
          <button
            type="button"
            onPointerDown={(event) => event.stopPropagation()}
            onClick={() => onGive(task)}
            title="The first free time before it is due"
            className="flex-none rounded-sm border border-rule bg-sheet px-1.5 text-xs"
          >
            give time
          </button>
        </li>
      ))}
    </ul>
  );
}
