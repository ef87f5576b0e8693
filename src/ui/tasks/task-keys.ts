import { useHeard } from "../input/heard";
import type { TaskGroup } from "@/core/agenda";
import { GROUP_KEYS } from "./words";

interface Acts {
  readonly put: (group: TaskGroup) => void;
  readonly remove: () => void;
  /** Gives it the first free time before it is due. */
  readonly giveTime: () => void;
}

const BY_DIGIT = new Map(Object.entries(GROUP_KEYS).map(([group, digit]) => [`Digit${digit}`, group as TaskGroup]));

/** The keys that put tasks somewhere, give them time or delete them: none is meant while something is typed. */
export function useTaskKeys(isOn: boolean, acts: Acts): void {
  const down = (event: KeyboardEvent) => {
    const { code, target } = event;
    if (event.repeat || event.ctrlKey || event.altKey || event.metaKey || event.shiftKey) return;
    const isTyped = target instanceof HTMLInputElement && target.type !== "checkbox";
    if (isTyped || target instanceof HTMLSelectElement || target instanceof HTMLTextAreaElement) return;
    const group = BY_DIGIT.get(code);
    if (!group && code !== "Delete" && code !== "KeyT") return;
    event.preventDefault();
    if (group) acts.put(group);
    else if (code === "KeyT") acts.giveTime();
    else acts.remove();
  };
  useHeard("keydown", down, { isOn });
}
