import { useEffect, useRef } from "react";
import type { TaskGroup } from "@/core/agenda";
import { GROUP_KEYS } from "./words";

interface Acts {
  readonly put: (group: TaskGroup) => void;
  readonly remove: () => void;
}

const BY_DIGIT = new Map(Object.entries(GROUP_KEYS).map(([group, digit]) => [`Digit${digit}`, group as TaskGroup]));

/** The keys that put tasks somewhere or delete them: none is a letter, and none is meant while something is typed. */
export function useTaskKeys(isOn: boolean, acts: Acts): void {
  const latest = useRef(acts);
  useEffect(() => {
    latest.current = acts;
  });
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      const { code, target } = event;
      if (!isOn || event.repeat || event.ctrlKey || event.altKey || event.metaKey || event.shiftKey) return;
      const isTyped = target instanceof HTMLInputElement && target.type !== "checkbox";
      if (isTyped || target instanceof HTMLSelectElement || target instanceof HTMLTextAreaElement) return;
      const group = BY_DIGIT.get(code);
      if (!group && code !== "Delete") return;
      event.preventDefault();
      if (group) latest.current.put(group);
      else latest.current.remove();
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, [isOn]);
}
