import type { TaskShape } from "@/core/api";
import { dateText } from "../parts/words";
import { changeTask } from "./acts";
import { sizeOf } from "./words";

interface Props {
  readonly task: TaskShape;
  readonly zone: string;
  readonly now: Date;
  readonly late: boolean;
  readonly focused: boolean;
  readonly onFocus: () => void;
}

/** That it presses, and what it is. */
export function TaskTitle({ task }: Pick<Props, "task">) {
  return (
    <>
      {task.pressing && (
        <b title="It presses" className="mr-1.5 rounded-[3px] bg-ink px-1.5 font-mono text-paper">
          !<span className="sr-only"> presses: </span>
        </b>
      )}
      {task.title}
    </>
  );
}

export function TaskRow({ task, zone, now, late, focused, onFocus }: Props) {
  const size = sizeOf(task);
  return (
    <li
      data-task={task.id}
      aria-current={focused}
      className={`grid grid-cols-[20px_minmax(0,1fr)_auto] items-center gap-x-3 border-b border-rule px-3.5 py-1.5 text-[13.5px] ${focused ? "shadow-[inset_0_0_0_2px_var(--ink)]" : ""}`}
    >
      <input
        type="checkbox"
        aria-label={`${task.title}, done`}
        checked={task.done}
        onChange={({ target }) => void changeTask(task, { done: target.checked })}
      />
      <button
        type="button"
        tabIndex={-1}
        onClick={({ currentTarget }) => {
          // The keys mean the task that has the focus, not this button.
          currentTarget.blur();
          onFocus();
        }}
        className={`truncate text-left max-md:col-span-2 ${task.done ? "text-ink-2 line-through" : "font-semibold"}`}
      >
        <TaskTitle task={task} />
      </button>
      <span
        className={`num text-xs max-md:col-start-2 max-md:row-start-2 ${late ? "font-bold text-brick" : "text-ink-2"}`}
      >
        {task.due && dateText(task.due, zone, now)}
      </span>
      {(size !== "" || task.about !== "") && (
        <span className="col-span-2 col-start-2 truncate text-xs text-ink-2">
          {[size, task.about].filter(Boolean).join(" · ")}
        </span>
      )}
    </li>
  );
}
