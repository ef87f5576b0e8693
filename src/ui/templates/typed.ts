import { useCallback, useEffect, useRef, useState } from "react";
import { write } from "../state/api";
import { notify } from "../state/store";
import { inLine } from "../state/writes";

/** Typing has come to a rest after so long. */
const PAUSE_MS = 700;

/** What was typed, without what of it was stored: what has been typed since is another value. */
const without = <T extends object>(typed: Partial<T>, stored: Partial<T>): Partial<T> =>
  Object.fromEntries(Object.entries(typed).filter(([key, value]) => stored[key as keyof T] !== value)) as Partial<T>;

/**
 * Stores what is typed into the fields of something once typing rests, and at once when it is left: all of what was
 * typed since it was stored last, in whichever fields. What could not be stored goes along with what is typed next.
 * @param path of the thing in the API, by PATCH
 * @returns what takes in what is typed; what stores it at once; what of it is not stored, as it was drawn last; and
 *   whether a field has something of that now
 */
export function useTyped<T extends object>(path: string) {
  /** What waits to be sent, and that with what is on its way. */
  const typed = useRef<Partial<T>>({});
  const open = useRef<Partial<T>>({});
  const [unstored, setUnstored] = useState<Partial<T>>({});
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const store = useCallback(() => {
    clearTimeout(timer.current);
    const fields = typed.current;
    if (Object.keys(fields).length === 0) return;
    typed.current = {};
    inLine(() => write("PATCH", path, fields)).then(
      () => setUnstored((open.current = without(open.current, fields))),
      (error: Error) => {
        typed.current = { ...fields, ...typed.current };
        notify(`Not stored: ${error.message}`, "trouble");
      },
    );
  }, [path]);
  useEffect(() => {
    window.addEventListener("pagehide", store);
    return () => {
      window.removeEventListener("pagehide", store);
      store();
    };
  }, [store]);
  const put = useCallback(
    (fields: Partial<T>) => {
      typed.current = { ...typed.current, ...fields };
      setUnstored((open.current = { ...open.current, ...fields }));
      clearTimeout(timer.current);
      timer.current = setTimeout(store, PAUSE_MS);
    },
    [store],
  );
  const holds = useCallback((field: keyof T) => field in open.current, []);
  return { put, store, unstored, holds };
}
