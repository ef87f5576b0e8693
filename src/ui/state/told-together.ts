import { useStore, type StoreApi } from "zustand";

type Listener<T> = (now: T, before: T) => void;

/** A store as a hook, whose listeners can be told of several changes at once. */
interface Told<T> extends StoreApi<T> {
  <U>(selector: (state: T) => U): U;
  /** Does something; the changes it makes are there at once, and told when it is over, also where it throws. */
  readonly asOne: (work: () => void) => void;
}

/**
 * A key makes several changes of one view, and each part of the screen looks at each of them to see whether it is
 * concerned. Told once for all of them, they look once.
 */
export function toldTogether<T>(store: StoreApi<T>): Told<T> {
  const listeners = new Set<Listener<T>>();
  let depth = 0;
  let told = store.getState();
  const tell = () => {
    const before = told;
    told = store.getState();
    if (told !== before) for (const listener of listeners) listener(told, before);
  };
  store.subscribe(() => {
    if (depth === 0) tell();
  });
  const api: StoreApi<T> = {
    ...store,
    subscribe(listener) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
  const asOne = (work: () => void) => {
    depth++;
    try {
      work();
    } finally {
      if (--depth === 0) tell();
    }
  };
  return Object.assign(<U>(selector: (state: T) => U) => useStore(api, selector), api, { asOne });
}
