import { useSyncExternalStore } from "react";

const CHANGED = "kept choice";

/** A choice that the browser keeps, such as a way of showing something; the first one where nothing is kept. */
export function useKeptChoice<T extends string>(key: string, choices: readonly [T, ...T[]]): [T, (choice: T) => void] {
  const listen = (changed: () => void) => {
    window.addEventListener(CHANGED, changed);
    return () => window.removeEventListener(CHANGED, changed);
  };
  const read = () => choices.find((choice) => choice === localStorage.getItem(key)) ?? choices[0];
  const choice = useSyncExternalStore(listen, read, () => choices[0]);
  const choose = (next: T) => {
    localStorage.setItem(key, next);
    window.dispatchEvent(new Event(CHANGED));
  };
  return [choice, choose];
}
