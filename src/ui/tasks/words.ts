import { repeatText, type TaskGroup } from "@/core/agenda";
import type { TaskShape } from "@/core/api";
import { dateText } from "../parts/words";

export const GROUP_TEXT: Record<TaskGroup, string> = {
  overdue: "Overdue",
  today: "Today",
  week: "This week",
  later: "Later",
  undated: "No date",
  waiting: "Waiting",
  done: "Done",
};

/** The digit that puts a task there. */
export const GROUP_KEYS: Partial<Record<TaskGroup, string>> = {
  today: "1",
  week: "2",
  later: "3",
  undated: "4",
  waiting: "5",
};

/** "30 min", "1 h 30" */
export const minutesText = (minutes: number): string => {
  const [hours, rest] = [Math.floor(minutes / 60), minutes % 60];
  if (hours === 0) return `${rest} min`;
  return rest === 0 ? `${hours} h` : `${hours} h ${String(rest).padStart(2, "0")}`;
};

/** How long it takes and how often it comes again, in a few words. */
export const sizeOf = ({ estimate, repeat }: Pick<TaskShape, "estimate" | "repeat">): string =>
  [estimate !== null && minutesText(estimate), repeat && repeatText(repeat)].filter(Boolean).join(" · ");

/** The same with when it is due. */
export const factsOf = (task: Pick<TaskShape, "due" | "estimate" | "repeat">, zone: string, now: Date): string =>
  [task.due && dateText(task.due, zone, now), sizeOf(task)].filter(Boolean).join(" · ");
