import { DndContext, PointerSensor, useDraggable, useDroppable, useSensor, useSensors } from "@dnd-kit/core";
import { groupAt, TASK_GROUPS, type TaskGroup } from "@/core/agenda";
import type { TaskShape } from "@/core/api";
import { countText } from "../parts/words";
import { lasting, putTask } from "./acts";
import { TaskTitle } from "./task-row";
import { factsOf, GROUP_KEYS, GROUP_TEXT } from "./words";

interface Props {
  readonly groups: ReadonlyMap<TaskGroup, readonly TaskShape[]>;
  readonly focused: number | null;
  readonly zone: string;
  readonly now: Date;
  readonly onFocus: (id: number) => void;
}

interface CardProps {
  readonly task: TaskShape;
  readonly focused: boolean;
  readonly facts: string;
  readonly onFocus: () => void;
}

function Card({ task, focused, facts, onFocus }: CardProps) {
  const { setNodeRef, listeners, transform, isDragging } = useDraggable({ id: lasting(task.id) });
  return (
    <li
      ref={setNodeRef}
      data-task={task.id}
      aria-current={focused}
      {...listeners}
      onClick={onFocus}
      style={transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined}
      className={`cursor-grab rounded-sm border bg-sheet px-2 py-1.5 text-[13px] ${focused ? "border-ink shadow-[inset_0_0_0_1px_var(--ink)]" : "border-rule"} ${isDragging ? "relative z-10 opacity-80" : ""}`}
    >
      <span className={task.done ? "text-ink-2 line-through" : "font-semibold"}>
        <TaskTitle task={task} />
      </span>
      {facts !== "" && <span className="num block text-xs text-ink-2">{facts}</span>}
    </li>
  );
}

interface ColumnProps extends Omit<Props, "groups"> {
  readonly group: TaskGroup;
  readonly tasks: readonly TaskShape[];
}

function Column({ group, tasks, focused, zone, now, onFocus }: ColumnProps) {
  const { setNodeRef, isOver } = useDroppable({ id: group, disabled: group === "overdue" });
  const key = GROUP_KEYS[group];
  return (
    <section
      aria-label={GROUP_TEXT[group]}
      className="flex min-h-0 w-48 flex-none flex-col border-r border-rule md:min-w-36 md:flex-1"
    >
      <h2
        className={`flex h-9 flex-none items-center gap-2 border-b border-rule px-2 text-[13px] font-bold ${group === "overdue" ? "text-brick" : ""}`}
      >
        {key && <kbd>{key}</kbd>}
        <span className="min-w-0 flex-1 truncate">{GROUP_TEXT[group]}</span>
        <span className="num font-normal text-ink-2">{countText(tasks.length)}</span>
      </h2>
      <ol
        ref={setNodeRef}
        className={`flex min-h-24 flex-1 flex-col gap-1.5 overflow-y-auto p-2 ${isOver ? "bg-spruce-soft" : ""}`}
      >
        {tasks.map((task) => (
          <Card
            key={lasting(task.id)}
            task={task}
            focused={task.id === focused}
            facts={factsOf(task, zone, now)}
            onFocus={() => onFocus(task.id)}
          />
        ))}
      </ol>
    </section>
  );
}

const NONE: readonly TaskShape[] = [];

/** Tasks by when they are due, side by side: pulling one into another column is putting it off. */
export function TaskBoard({ groups, ...shared }: Props) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const drop = (id: number, group: TaskGroup | undefined) => {
    const task = [...groups.values()].flat().find((one) => lasting(one.id) === id);
    if (!task || group === undefined || groupAt(new Date(), shared.zone)(task) === group) return;
    putTask(task, group);
  };
  return (
    <DndContext
      sensors={sensors}
      onDragEnd={({ active, over }) => drop(Number(active.id), over?.id as TaskGroup | undefined)}
    >
      <div className="flex min-h-0 flex-1 overflow-x-auto">
        {TASK_GROUPS.map((group) => (
          <Column key={group} group={group} tasks={groups.get(group) ?? NONE} {...shared} />
        ))}
      </div>
    </DndContext>
  );
}
